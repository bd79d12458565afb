"""Shelf, new job, chain board, brief."""

from django.urls import path

from workbench.jobs import views

app_name = "jobs"
urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("jobs/new/", views.new, name="new"),
    path("jobs/from-file/", views.from_file, name="from_file"),
    path("jobs/<int:job>/", views.board, name="board"),
    path("jobs/<int:job>/brief/", views.brief, name="brief"),
    path("jobs/<int:job>/supply/", views.supply, name="supply"),
    path("jobs/<int:job>/channels/add/", views.channel_add, name="channel_add"),
    path("jobs/<int:job>/channels/remove/", views.channel_remove, name="channel_remove"),
    path("jobs/<int:job>/key-switch/", views.key_switch, name="key_switch"),
    path("jobs/<int:job>/override/", views.override, name="override"),
    path("jobs/<int:job>/override/remove/", views.override_remove, name="override_remove"),
]
