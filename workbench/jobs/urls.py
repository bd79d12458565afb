"""Chain board, key switch, findings waived."""

from django.urls import path

from workbench.jobs import views

app_name = "jobs"
urlpatterns = [
    path("", views.board, name="board"),
    path("key-switch/", views.key_switch, name="key_switch"),
    path("waiver/", views.waiver, name="waiver"),
    path("waiver/remove/", views.waiver_remove, name="waiver_remove"),
]
