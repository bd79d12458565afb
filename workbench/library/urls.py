"""The workshop's library."""

from django.urls import path

from workbench.library import views

app_name = "library"
urlpatterns = [
    path("fittings/", views.fittings, name="fittings"),
    path("fittings/add/", views.add, name="add"),
    path("fittings/stock/", views.stock, name="stock"),
    path("fittings/remove/", views.remove, name="remove"),
    path("fittings/generic/", views.generic, name="generic"),
]
