"""Printing: how far it is."""

from django.urls import path

from workbench.printing import views

app_name = "printing"
urlpatterns = [path("<slug:paper>/", views.progress, name="progress")]
