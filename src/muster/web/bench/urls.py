"""The bench."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.bench, name="bench"),
    path("<int:session_id>/", views.session, name="session"),
    path("<int:session_id>/understood/", views.understood, name="session-understood"),
    path("<int:session_id>/line/", views.line, name="session-line"),
    path("<int:session_id>/form/", views.form, name="session-form"),
    path("<int:session_id>/switch/", views.switch, name="session-switch"),
    path("<int:session_id>/event/", views.event, name="session-event"),
    path("<int:session_id>/undo/", views.undo, name="session-undo"),
    path("<int:session_id>/correct/<int:entry_id>/", views.correct, name="session-correct"),
    path("<int:session_id>/close/", views.close, name="session-close"),
]
