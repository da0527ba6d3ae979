"""The roll call of loads."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.roll, name="roll"),
    path("csv/", views.as_csv, name="roll-csv"),
    path("understood/", views.understood, name="roll-understood"),
    path("<int:load_id>/", views.edit, name="roll-edit"),
    path("<int:load_id>/csv/", views.call_csv, name="roll-call-csv"),
    path("<int:load_id>/known/", views.known, name="roll-known"),
    path("<int:load_id>/strike/", views.strike, name="roll-strike"),
    path("<int:load_id>/hours/", views.hours, name="roll-hours"),
    path("<int:load_id>/remove/", views.remove, name="roll-remove"),
    path("<int:load_id>/put-back/", views.put_back, name="roll-put-back"),
]
