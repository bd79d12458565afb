"""Work order: the steps in their order, days, own steps, tools and parts, the quote; paper for the wing."""

from django.urls import path

from workbench.work import photos, planning, views

app_name = "work"
urlpatterns = [
    path("", views.show, name="show"),
    path("sheet/", views.sheet, name="sheet"),
    path("noted/", views.noted, name="noted"),
    path("steps.csv", views.steps_csv, name="steps_csv"),
    path("photo/", photos.take, name="take_photo"),
    path("photo/<int:photo>.jpg", photos.photo, name="photo"),
    path("photo/out/", photos.throw_away, name="throw_away"),
    path("days/", planning.days, name="days"),
    path("zone/", planning.zone, name="zone"),
    path("hours/", planning.hours, name="hours"),
    path("school/", planning.school, name="school"),
    path("compare/", planning.compare, name="compare"),
    path("steps/", planning.steps, name="steps"),
    path("steps/own/", planning.own_step, name="own_step"),
    path("steps/out/", planning.remove_own_step, name="remove_own_step"),
    path("steps/change/", planning.alter, name="alter"),
    path("steps/also/", planning.maintenance, name="maintenance"),
    path("steps/keep/", planning.to_library, name="to_library"),
    path("steps/take/", planning.from_library, name="from_library"),
    path("goods/", planning.goods, name="goods"),
    path("goods/have/", planning.have, name="have"),
    path("quote/", planning.quote, name="quote"),
    path("sheet.pdf", planning.paper, {"name": "sheet"}, name="sheet_pdf"),
    path("tools.pdf", planning.paper, {"name": "tools"}, name="tools_pdf"),
    path("quote.pdf", planning.paper, {"name": "quote"}, name="quote_pdf"),
    path("work.ics", planning.calendar, name="calendar"),
]
