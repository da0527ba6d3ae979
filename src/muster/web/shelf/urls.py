"""The shelf, beside the jobs."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("csv/", views.as_csv, name="shelf-csv"),
    path("import/", views.bring_in, name="shelf-import"),
    path("new/", views.new, name="shelf-new"),
    path("<int:entry_id>/", views.edit, name="shelf-edit"),
    path("<int:entry_id>/take-off/", views.take_off, name="shelf-take-off"),
    path("<int:entry_id>/put-back/", views.put_back, name="shelf-put-back"),
    path("from-roll/<int:load_id>/", views.shelve, name="shelf-from-roll"),
]
