"""The bench."""

from django.urls import path

from . import captures, checkins, clipboard, logs, recording, stream, strip, views

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
    path("<int:session_id>/confirm/<int:entry_id>/", views.confirm, name="session-confirm"),
    path("<int:session_id>/clipboard/", clipboard.clipboard, name="clipboard"),
    path("<int:session_id>/checks/", views.checks, name="session-checks"),
    path("<int:session_id>/archive/", views.away, name="session-archive"),
    path("<int:session_id>/live/", stream.live, name="session-live"),
    path("<int:session_id>/record/", recording.record, name="session-record"),
    path("<int:session_id>/record/stop/", recording.stop, name="session-stop"),
    path("<int:session_id>/record/again/", recording.again, name="session-again"),
    path("<int:session_id>/run/", recording.run, name="session-run"),
    path("<int:session_id>/run/stop/", recording.halt, name="session-halt"),
    path("<int:session_id>/checkins/", checkins.every, name="session-checkins"),
    path("<int:session_id>/checkins.ics", checkins.calendar, name="session-calendar"),
    path("<int:session_id>/captures/", captures.captures, name="captures"),
    path("<int:session_id>/captures/<int:capture_id>/", captures.capture, name="capture"),
    path("<int:session_id>/captures/<int:capture_id>/archive/", captures.away, name="capture-archive"),
    path("<int:session_id>/captures/<int:capture_id>.<str:kind>", captures.file, name="capture-file"),
    path("<int:session_id>/stack.csv", views.stack_csv, name="stack-csv"),
    path("<int:session_id>/close/", views.close, name="session-close"),
    path("<int:session_id>/logs/", logs.logs, name="logs"),
    path("<int:session_id>/logs/<int:import_id>/", logs.log_import, name="log-import"),
    path("<int:session_id>/logs/<int:import_id>/stop/", logs.stop_import, name="stop-import"),
    path("<int:session_id>/logs/<int:import_id>/forget/", logs.forget_import, name="forget-import"),
    path("<int:session_id>/trace/<int:trace_id>/archive/", logs.trace_away, name="trace-archive"),
    path("<int:session_id>/trace/<int:trace_id>/csv/", logs.trace_file, name="trace-file"),
    path("<int:session_id>/strip/", strip.strip, name="strip"),
    path("<int:session_id>/strip/data/", strip.data, name="strip-data"),
    path("<int:session_id>/strip/measure/", strip.measured, name="strip-measure"),
]
