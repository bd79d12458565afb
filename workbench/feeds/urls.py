"""Feeds: panels, probe sheet, taps, grounds, backlight."""

from django.urls import path

from workbench.feeds import backlight, grounds, panels, sheet, taps

app_name = "feeds"
urlpatterns = [
    path("", panels.show, name="show"),
    path("circuit/", panels.circuit_save, name="circuit_save"),
    path("circuit/remove/", panels.circuit_remove, name="circuit_remove"),
    path("panel/", panels.panel_save, name="panel_save"),
    path("panel/slots/", panels.panel_lay_out, name="panel_lay_out"),
    path("panel/remove/", panels.panel_remove, name="panel_remove"),
    path("probe/", sheet.probe, name="probe"),
    path("prove/", sheet.prove, name="prove"),
    path("fact/", sheet.fact, name="fact"),
    path("row/", sheet.row_add, name="row_add"),
    path("column/", sheet.column_add, name="column_add"),
    path("column/remove/", sheet.column_remove, name="column_remove"),
    path("live/", sheet.live, name="live"),
    path("tap/", taps.tap, name="tap"),
    path("tap/more/", taps.tap_more, name="tap_more"),
    path("tap/best/", taps.tap_best, name="tap_best"),
    path("tap/set/", taps.tap_set, name="tap_set"),
    path("tap/turn/", taps.tap_turn, name="tap_turn"),
    path("tap/remove/", taps.tap_remove, name="tap_remove"),
    path("grounds/", grounds.show, name="grounds"),
    path("grounds/save/", grounds.save, name="ground_save"),
    path("grounds/remove/", grounds.remove, name="ground_remove"),
    path("backlight/", backlight.show, name="backlight"),
    path("backlight/save/", backlight.save, name="backlight_save"),
]
