"""Switches and relays."""

from django.urls import path

from workbench.switches import views

app_name = "switches"
urlpatterns = [
    path("", views.show, name="show"),
    path("save/", views.save, name="save"),
    path("into-wire/", views.into_wire, name="into_wire"),
    path("share/", views.share, name="share"),
    path("remove/", views.remove, name="remove"),
]
