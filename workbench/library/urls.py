"""The workshop's library."""

from django.urls import path

from workbench.library import display_views, part_views, views

app_name = "library"
urlpatterns = [
    path("senders/", part_views.senders, name="senders"),
    path("displays/", part_views.displays, name="displays"),
    path("displays/one/", display_views.show, name="display"),
    path("displays/new/", display_views.new, name="display_new"),
    path("displays/change/", display_views.change, name="display_change"),
    path("displays/take/", display_views.take, name="display_take"),
    path("parts/keep/", part_views.keep, name="part_keep"),
    path("parts/remove/", part_views.remove, name="part_remove"),
    path("fittings/", views.fittings, name="fittings"),
    path("fittings/add/", views.add, name="add"),
    path("fittings/stock/", views.stock, name="stock"),
    path("fittings/remove/", views.remove, name="remove"),
    path("fittings/generic/", views.generic, name="generic"),
]
