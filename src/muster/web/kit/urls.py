"""The kit."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.kit, name="kit"),
    path("new/", views.new, name="kit-new"),
    path("<int:instrument_id>/", views.edit, name="kit-edit"),
    path("<int:instrument_id>/up/", views.up, name="kit-up"),
    path("<int:instrument_id>/take-out/", views.take_out, name="kit-take-out"),
    path("<int:instrument_id>/put-back/", views.put_back, name="kit-put-back"),
]
