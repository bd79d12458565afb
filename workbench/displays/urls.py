"""Displays and boxes: head, pins, inputs, outputs, what is read by which box."""

from django.urls import path

from workbench.displays import inputs, outputs, pins, views

app_name = "displays"
urlpatterns = [
    path("", views.show, name="show"),
    path("add/", views.add, name="add"),
    path("save/", views.save, name="save"),
    path("remove/", views.remove, name="remove"),
    path("describe/", views.describe, name="describe"),
    path("pin/", pins.save, name="pin_save"),
    path("pin/form/", pins.form, name="pin_form"),
    path("pin/remove/", pins.remove, name="pin_remove"),
    path("input/", inputs.save, name="input_save"),
    path("input/form/", inputs.form, name="input_form"),
    path("input/remove/", inputs.remove, name="input_remove"),
    path("output/", outputs.save, name="output_save"),
    path("output/form/", outputs.form, name="output_form"),
    path("output/remove/", outputs.remove, name="output_remove"),
    path("read-by/", outputs.read_by, name="read_by"),
    path("read-without/", outputs.read_without, name="read_without"),
    path("read-at/", inputs.read_at, name="read_at"),
]
