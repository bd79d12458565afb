"""Ports: places, senders, fittings, flow paths, cards, fluids."""

from django.urls import path

from workbench.ports.views import cards, paths, pins, readers

app_name = "ports"
urlpatterns = [
    path("", pins.show, name="show"),
    path("verdict/", pins.verdict, name="verdict"),
    path("move/", pins.move, name="move"),
    path("place/", pins.place, name="place"),
    path("sender/mark/", pins.mark, name="sender_mark"),
    path("antenna/", pins.antenna, name="antenna"),
    path("pin/add/", pins.add, name="pin_add"),
    path("pin/remove/", pins.remove, name="pin_remove"),
    path("sender/", pins.sender, name="sender"),
    path("reader/", readers.add, name="reader_add"),
    path("reader/remove/", readers.remove, name="reader_remove"),
    path("join/", readers.join, name="join"),
    path("facts/", pins.facts, name="facts"),
    path("stack/", pins.stack, name="stack"),
    path("weights/", pins.weights, name="weights"),
    path("practice/", pins.practice, name="practice"),
    path("paths/", paths.show, name="paths"),
    path("paths/start/", paths.start, name="paths_start"),
    path("paths/save/", paths.save, name="path_save"),
    path("paths/new/", paths.new, name="path_new"),
    path("paths/remove/", paths.remove, name="path_remove"),
    path("card/", cards.show, name="card"),
    path("card/pdf/", cards.pdf, name="card_pdf"),
    path("fluids/", cards.fluids, name="fluids"),
    path("fluids/save/", cards.fluid_save, name="fluid_save"),
]
