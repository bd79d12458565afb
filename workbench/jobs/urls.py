"""Chain board, key switch, findings gone past."""

from django.urls import path

from workbench.jobs import views

app_name = "jobs"
urlpatterns = [
    path("", views.board, name="board"),
    path("key-switch/", views.key_switch, name="key_switch"),
    path("override/", views.override, name="override"),
    path("override/remove/", views.override_remove, name="override_remove"),
]
