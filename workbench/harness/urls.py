"""Harness: runs, wires, diagram, cut list."""

from django.urls import path

from workbench.harness import openings, views

app_name = "harness"
urlpatterns = [
    path("", views.show, name="show"),
    path("run/", views.run, name="run"),
    path("run/add/", views.run_add, name="run_add"),
    path("run/remove/", views.run_remove, name="run_remove"),
    path("lay/", views.lay, name="lay"),
    path("wire/", views.wire, name="wire"),
    path("wire/add/", views.wire_add, name="wire_add"),
    path("wire/remove/", views.wire_remove, name="wire_remove"),
    path("openings/", openings.show, name="openings"),
    path("openings/save/", openings.save, name="opening_save"),
    path("openings/remove/", openings.remove, name="opening_remove"),
    path("diagram/", views.diagram, name="diagram"),
    path("diagram.svg", views.diagram_file, name="diagram_file"),
    path("cut-list.csv", views.cut_list_file, name="cut_list_file"),
]
