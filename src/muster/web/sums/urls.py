"""The small calculations."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.sums, name="sums"),
    path("kept/<int:sum_id>/away/", views.put_away, name="sum-away"),
    path("<slug:slug>/", views.one, name="sum"),
]
