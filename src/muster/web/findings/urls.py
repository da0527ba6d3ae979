"""Where the page stands."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.findings, name="findings"),
    path("csv/", views.as_csv, name="findings-csv"),
    path("<int:session_id>/baseline/", views.take_baseline, name="take-baseline"),
    path("<int:session_id>/ladder.csv", views.ladder_csv, name="ladder-csv"),
    path("<int:session_id>/line-<int:number>.csv", views.line_csv, name="line-csv"),
]
