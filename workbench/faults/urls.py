"""Faults: what is said, what is measured, who is to blame."""

from django.urls import path

from workbench.faults import views

app_name = "faults"
urlpatterns = [
    path("", views.show, name="show"),
    path("begin/", views.begin, name="begin"),
    path("say/", views.say, name="say"),
    path("see/", views.see, name="see"),
    path("forget/", views.forget, name="forget"),
    path("end/", views.end, name="end"),
    path("again/", views.again, name="again"),
    path("remove/", views.remove, name="remove"),
]
