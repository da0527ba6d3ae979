"""The board, and what belongs to no stage."""

from django.urls import path

from . import history, views

urlpatterns = [
    path("", views.board, name="board"),
    path("jobs/new/", views.new, name="new-job"),
    path("jobs/notes/", views.notes, name="notes"),
    path("jobs/ask/", views.ask, name="ask"),
    path("jobs/import/", views.bring_in, name="import-job"),
    path("jobs/<int:job_id>/file/", views.file, name="job-file"),
    path("jobs/<int:job_id>/notes/", views.as_notes, name="job-notes"),
    path("jobs/<int:job_id>/data/", views.package, name="job-data"),
    path("jobs/<int:job_id>/copy/", views.copy, name="copy-job"),
    path("jobs/<int:job_id>/archive/", views.archive, name="archive-job"),
    path("jobs/<int:job_id>/restore/", views.restore, name="restore-job"),
    path("jobs/<int:job_id>/history/", history.history, name="history"),
    path("jobs/<int:job_id>/history/<int:change_id>/undo/", history.undo, name="undo-change"),
    path("jobs/<int:job_id>/history/<int:change_id>/redo/", history.redo, name="redo-change"),
    path("theme/", views.theme, name="theme"),
    path("help/", views.help_page, name="help"),
]
