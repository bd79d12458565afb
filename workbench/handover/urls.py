"""Handover: the book and the files to take away."""

from django.urls import path

from workbench.handover import views

app_name = "handover"
urlpatterns = [
    path("", views.show, name="show"),
    path("book/", views.book, name="book"),
    path("book.pdf", views.book_pdf, name="book_pdf"),
    path("job.json", views.job_file, name="job_file"),
]
