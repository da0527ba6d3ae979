"""Addresses of this page."""

from django.urls import path

from . import views

urlpatterns = [path("", views.compare_page, name="compare"), path("csv/", views.as_csv, name="compare-csv")]
