"""Addresses of this page."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.verdict, name="verdict"),
    path("csv/", views.as_csv, name="verdict-csv"),
    path("json/", views.as_json, name="verdict-json"),
]
