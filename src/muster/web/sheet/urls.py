"""Where the sheets stand, and what stacks beside them."""

from django.urls import path

from . import stacks, views

urlpatterns = [
    path("", views.sheet, name="sheet"),
    path("change/", views.change, name="sheet-change"),
    path("stacks/", stacks.stacks, name="stacks"),
    path("stacks/csv/", stacks.as_csv, name="stacks-csv"),
    path("stacks/order/csv/", stacks.order_csv, name="order-csv"),
]
