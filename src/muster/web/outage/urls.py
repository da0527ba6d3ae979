"""Addresses of this page."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.day, name="outage"),
    path("csv/", views.as_csv, name="outage-csv"),
    path("rules/", views.rules, name="outage-rules"),
    path("played/csv/", views.played_csv, name="outage-played-csv"),
]
