"""Addresses of this page."""

from django.urls import path

from . import views

urlpatterns = [path("", views.safety, name="safety")]
