"""Addresses of this page."""

from django.urls import path

from . import cards, views

urlpatterns = [
    path("", views.verdict, name="verdict"),
    path("csv/", views.as_csv, name="verdict-csv"),
    path("json/", views.as_json, name="verdict-json"),
    path("card/", cards.card, name="card"),
    path("card/words/", cards.words, name="card-words"),
    path("card/file/", cards.give_out, name="card-file"),
]
