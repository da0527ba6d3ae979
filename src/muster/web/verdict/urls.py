"""Addresses of this page."""

from django.urls import path

from . import cards, reports, views

urlpatterns = [
    path("", views.verdict, name="verdict"),
    path("csv/", views.as_csv, name="verdict-csv"),
    path("json/", views.as_json, name="verdict-json"),
    path("report/", reports.report, name="report"),
    path("report/file/", reports.as_file, name="report-file"),
    path("card/", cards.card, name="card"),
    path("card/words/", cards.words, name="card-words"),
    path("card/file/", cards.give_out, name="card-file"),
]
