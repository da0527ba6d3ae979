"""The small calculations."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.calculations, name="calculators"),
    path("saved/<int:calculation_id>/archive/", views.archive, name="calculation-archive"),
    path("<slug:slug>/", views.calculator, name="calculator"),
]
