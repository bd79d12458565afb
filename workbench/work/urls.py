"""Work order: the steps in their order, what is done of them, the paper for the wing."""

from django.urls import path

from workbench.work import views

app_name = "work"
urlpatterns = [
    path("", views.show, name="show"),
    path("sheet/", views.sheet, name="sheet"),
    path("noted/", views.noted, name="noted"),
    path("steps.csv", views.steps_csv, name="steps_csv"),
    path("sheet.pdf", views.sheet_pdf, name="sheet_pdf"),
]
