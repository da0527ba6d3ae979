"""The shelf, beside the jobs."""

from django.urls import path

from . import measured, views

urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("csv/", views.as_csv, name="shelf-csv"),
    path("import/", views.bring_in, name="shelf-import"),
    path("new/", views.new, name="shelf-new"),
    path("<int:entry_id>/", views.edit, name="shelf-edit"),
    path("<int:entry_id>/take-off/", views.take_off, name="shelf-take-off"),
    path("<int:entry_id>/put-back/", views.put_back, name="shelf-put-back"),
    path("measured/import/", measured.bring_in, name="measured-import"),
    path("measured/put/<int:job_id>/<int:source_id>/", measured.put, name="measured-put"),
    path("measured/take/<int:job_id>/", measured.take, name="measured-take"),
    path("measured/take/", measured.take_any, name="measured-take-any"),
    path("measured/<int:measured_id>/file/", measured.file, name="measured-file"),
    path("measured/<int:measured_id>/remove/", measured.remove, name="measured-remove"),
    path("measured/<int:measured_id>/put-back/", measured.put_back, name="measured-put-back"),
    path("measured/<int:measured_id>/beside/<int:other_id>/", measured.beside, name="measured-beside"),
    path("measured/serviced/<int:job_id>/<int:source_id>/", measured.serviced, name="measured-serviced"),
    path("from-roll/<int:load_id>/", views.shelve, name="shelf-from-roll"),
]
