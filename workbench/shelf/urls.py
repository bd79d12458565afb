"""Shelf and new job."""

from django.urls import path

from workbench.shelf import views

app_name = "shelf"
urlpatterns = [
    path("", views.show, name="show"),
    path("jobs/new/", views.new, name="new"),
    path("quick/", views.quick, name="quick"),
    path("jobs/from-file/", views.from_file, name="from_file"),
]
