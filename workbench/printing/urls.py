"""Printing: how far it is."""

from django.urls import path

from workbench.printing import views

app_name = "printing"
urlpatterns = [path("<slug:key>/", views.progress, name="progress")]
