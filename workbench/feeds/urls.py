"""Feeds: panel, probe sheet, taps, grounds."""

from django.urls import path

from workbench.feeds import views

app_name = "feeds"
urlpatterns = [
    path("", views.show, name="show"),
    path("circuit/", views.circuit_add, name="circuit_add"),
    path("circuit/remove/", views.circuit_remove, name="circuit_remove"),
    path("probe/", views.probe, name="probe"),
    path("prove/", views.prove, name="prove"),
    path("tap/", views.tap, name="tap"),
    path("tap/turn/", views.tap_turn, name="tap_turn"),
    path("tap/remove/", views.tap_remove, name="tap_remove"),
    path("ground/", views.ground_add, name="ground_add"),
    path("ground/remove/", views.ground_remove, name="ground_remove"),
]
