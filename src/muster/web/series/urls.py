"""Addresses of a series, beside the bench."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.series_list, name="series-list"),
    path("<int:series_id>/", views.series, name="series"),
    path("<int:series_id>/shared/", views.confirm_shared, name="series-shared"),
    path("<int:series_id>/unit/<int:unit_id>/begin/", views.begin_unit, name="series-begin"),
    path("<int:series_id>/figure/", views.figure, name="series-figure"),
    path("<int:series_id>/close/", views.close, name="series-close"),
]
