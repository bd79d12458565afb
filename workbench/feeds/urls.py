"""Feeds: panels, probe sheet, taps, grounds, backlight."""

from django.urls import path

from workbench.feeds import backlight, grounds, views

app_name = "feeds"
urlpatterns = [
    path("", views.show, name="show"),
    path("circuit/", views.circuit_save, name="circuit_save"),
    path("circuit/remove/", views.circuit_remove, name="circuit_remove"),
    path("panel/", views.panel_save, name="panel_save"),
    path("panel/slots/", views.panel_lay_out, name="panel_lay_out"),
    path("panel/remove/", views.panel_remove, name="panel_remove"),
    path("probe/", views.probe, name="probe"),
    path("prove/", views.prove, name="prove"),
    path("tap/", views.tap, name="tap"),
    path("tap/more/", views.tap_more, name="tap_more"),
    path("tap/best/", views.tap_best, name="tap_best"),
    path("tap/set/", views.tap_set, name="tap_set"),
    path("tap/turn/", views.tap_turn, name="tap_turn"),
    path("tap/remove/", views.tap_remove, name="tap_remove"),
    path("grounds/", grounds.show, name="grounds"),
    path("grounds/save/", grounds.save, name="ground_save"),
    path("grounds/remove/", grounds.remove, name="ground_remove"),
    path("backlight/", backlight.show, name="backlight"),
    path("backlight/save/", backlight.save, name="backlight_save"),
]
