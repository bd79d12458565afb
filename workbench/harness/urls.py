"""Harness: runs, wires, diagram, cut list."""

from django.urls import path

from workbench.harness import openings, papers, plan, plugs, views

app_name = "harness"
urlpatterns = [
    path("", views.show, name="show"),
    path("run/", views.run, name="run"),
    path("run/add/", views.run_add, name="run_add"),
    path("run/remove/", views.run_remove, name="run_remove"),
    path("lay/", views.lay, name="lay"),
    path("wire/", views.wire, name="wire"),
    path("wire/form/", views.wire_form, name="wire_form"),
    path("wire/add/", views.wire_add, name="wire_add"),
    path("wire/move/", views.wire_move, name="wire_move"),
    path("wire/remove/", views.wire_remove, name="wire_remove"),
    path("openings/", openings.show, name="openings"),
    path("openings/save/", openings.save, name="opening_save"),
    path("openings/remove/", openings.remove, name="opening_remove"),
    path("plan/", plan.show, name="plan"),
    path("plan/start/", plan.start, name="plan_start"),
    path("plan/run/", plan.run, name="plan_run"),
    path("plan/via/", plan.via, name="plan_via"),
    path("plan/edit/", plan.edit, name="plan_edit"),
    path("plan/way/", plan.way_save, name="plan_way"),
    path("plan/way/remove/", plan.way_remove, name="plan_way_remove"),
    path("plan/zone/", plan.zone_save, name="plan_zone"),
    path("plan/zone/remove/", plan.zone_remove, name="plan_zone_remove"),
    path("plan.svg", plan.plan_file, name="plan_file"),
    path("plugs/", plugs.show, name="plugs"),
    path("plugs/save/", plugs.save, name="plug_save"),
    path("plugs/remove/", plugs.remove, name="plug_remove"),
    path("plugs/pins.csv", plugs.pins_file, name="pins_file"),
    path("plugs/pin/", plugs.pin_save, name="pin_save"),
    path("bus/", plugs.bus_save, name="bus_save"),
    path("bus/signal/", plugs.signal, name="signal"),
    path("diagram/", papers.diagram, name="diagram"),
    path("diagram.svg", papers.diagram_file, name="diagram_file"),
    path("diagram.pdf", papers.diagram_pdf, name="diagram_pdf"),
    path("reels.csv", papers.reels_file, name="reels_file"),
    path("labels.pdf", papers.labels, name="labels"),
    path("cut-list.csv", papers.cut_list_file, name="cut_list_file"),
]
