"""Proving: expected, seen, verdict."""

from django.urls import path

from workbench.proving import views

app_name = "proving"
urlpatterns = [
    path("", views.show, name="show"),
    path("seen/", views.seen, name="seen"),
    path("plan/", views.plan, name="plan"),
    path("plan/live/", views.plan_live, name="plan_live"),
    path("checked/", views.checked, name="checked"),
    path("live/", views.live, name="live"),
    path("faults/", views.faults, name="faults"),
    path("lamp/", views.lamp, name="lamp"),
]
