"""Sources of a job."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.sources, name="source"),
    path("read/", views.read, name="source-read"),
    path("line/", views.add_line, name="source-line"),
    path("new/", views.new, name="source-new"),
    path("<int:source_id>/edit/", views.edit, name="source-edit"),
    path("<int:source_id>/archive/", views.archive, name="source-archive"),
    path("<int:source_id>/restore/", views.restore, name="source-restore"),
]
