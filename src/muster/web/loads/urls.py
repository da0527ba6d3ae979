"""The loads of the home."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.roll, name="loads"),
    path("csv/", views.as_csv, name="loads-csv"),
    path("understood/", views.understood, name="loads-understood"),
    path("<int:load_id>/", views.edit, name="loads-edit"),
    path("<int:load_id>/csv/", views.call_csv, name="loads-call-csv"),
    path("<int:load_id>/known/", views.known, name="loads-known"),
    path("<int:load_id>/strike/", views.strike, name="loads-strike"),
    path("<int:load_id>/kind/", views.kind, name="loads-kind"),
    path("<int:load_id>/hours/", views.hours, name="loads-hours"),
    path("<int:load_id>/remove/", views.remove, name="loads-remove"),
    path("<int:load_id>/put-back/", views.put_back, name="loads-put-back"),
]
