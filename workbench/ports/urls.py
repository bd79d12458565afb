"""Ports: places and senders."""

from django.urls import path

from workbench.ports import views

app_name = "ports"
urlpatterns = [
    path("", views.show, name="show"),
    path("place/", views.place, name="place"),
    path("sender/", views.sender, name="sender"),
    path("facts/", views.facts, name="facts"),
]
