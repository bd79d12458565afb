"""Scaling: curve, table, what will it show."""

from django.urls import path

from workbench.scaling import views

app_name = "scaling"
urlpatterns = [
    path("", views.show, name="show"),
    path("curve/", views.curve, name="curve"),
    path("table/", views.table, name="table"),
    path("rows/", views.rows, name="rows"),
    path("setting/", views.setting, name="setting"),
    path("setting/remove/", views.setting_remove, name="setting_remove"),
    path("shown/", views.shown, name="shown"),
]
