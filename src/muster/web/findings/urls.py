"""Addresses of this page."""

from django.urls import path

from . import character, noise, setpoint, views, waves

urlpatterns = [
    path("", views.findings, name="findings"),
    path("character/", character.character, name="character"),
    path("character/json/", character.as_json, name="character-json"),
    path("character/csv/", character.as_csv, name="character-csv"),
    path("character/predicted/", character.predicted_csv, name="predicted-csv"),
    path("set-point/", setpoint.setpoint, name="set-point"),
    path("noise-plan/", noise.noise, name="noise-plan"),
    path("waves/", waves.waves, name="waves"),
    path("csv/", views.as_csv, name="findings-csv"),
    path("<int:session_id>/baseline/", views.take_baseline, name="take-baseline"),
    path("<int:session_id>/ladder.csv", views.ladder_csv, name="ladder-csv"),
    path("<int:session_id>/line-<int:number>.csv", views.line_csv, name="line-csv"),
]
