"""Addresses of the plan, and of what stacks."""

from django.urls import path

from . import stacks, views

urlpatterns = [
    path("", views.sheet, name="plan"),
    path("change/", views.change, name="plan-change"),
    path("stacks/", stacks.stacks, name="stacks"),
    path("stacks/csv/", stacks.as_csv, name="stacks-csv"),
    path("stacks/order/csv/", stacks.order_csv, name="order-csv"),
]
