"""Where the page stands."""

from django.urls import path

from . import views

urlpatterns = [path("", views.day, name="day"), path("csv/", views.as_csv, name="day-csv")]
