"""Dash: pages and faces, the made-up drive, lamps and outputs, faces by day and night."""

from django.urls import path

from workbench.dash import lamps, night, views

app_name = "dash"
urlpatterns = [
    path("", views.show, name="show"),
    path("lay-out/", views.lay_out, name="lay_out"),
    path("page/", views.page, name="page"),
    path("page/move/", views.page_move, name="page_move"),
    path("page/remove/", views.page_remove, name="page_remove"),
    path("face/", views.face, name="face"),
    path("face/add/", views.face_add, name="face_add"),
    path("face/move/", views.face_move, name="face_move"),
    path("face/remove/", views.face_remove, name="face_remove"),
    path("drive.json", views.drive, name="drive"),
    path("page.svg", views.picture, name="picture"),
    path("lamps/", lamps.show, name="lamps"),
    path("lamps/output/", lamps.output, name="output"),
    path("night/", night.show, name="night"),
]
