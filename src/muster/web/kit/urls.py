"""The kit."""

from django.urls import path

from . import links, views

urlpatterns = [
    path("", views.kit, name="kit"),
    path("new/", views.new, name="kit-new"),
    path("check/", views.check, name="kit-check"),
    path("<int:instrument_id>/", views.edit, name="kit-edit"),
    path("find/", links.look, name="kit-look"),
    path("find/take/", links.take, name="kit-take"),
    path("<int:instrument_id>/reach/", links.reach, name="kit-reach"),
    path("<int:instrument_id>/reach/figures/", links.figures, name="kit-figures"),
    path("<int:instrument_id>/reach/forget/", links.forget, name="kit-forget"),
    path("strip/<int:strip_id>/", links.strip, name="kit-strip"),
    path("strip/<int:strip_id>/archive/", links.strip_away, name="kit-strip-archive"),
    path("<int:instrument_id>/up/", views.up, name="kit-up"),
    path("<int:instrument_id>/take-out/", views.take_out, name="kit-take-out"),
    path("<int:instrument_id>/put-back/", views.put_back, name="kit-put-back"),
]
