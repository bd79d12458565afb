"""Handover: the book, the papers and files to take away, the handing over."""

from django.urls import path

from workbench.handover import later_views, views

app_name = "handover"
urlpatterns = [
    path("", views.show, name="show"),
    path("closing/", views.closing, name="closing"),
    path("over/", views.over, name="over"),
    path("book/", views.book, name="book"),
    path("book.pdf", views.book_pdf, name="book_pdf"),
    path("card.pdf", views.card_pdf, name="card_pdf"),
    path("fuses.pdf", views.fuses_pdf, name="fuses_pdf"),
    path("settings.pdf", views.settings_pdf, name="settings_pdf"),
    path("rechecks.ics", views.rechecks, name="rechecks"),
    path("job.json", views.job_file, name="job_file"),
    path("later/", later_views.later, name="later"),
    path("later/forget/", later_views.forget, name="later_forget"),
    path("later/<slug:kind>/", later_views.made, name="later_made"),
    path("as/<int:number>/", views.as_handed, name="as_handed"),
    path("as/<int:number>/book.pdf", views.as_handed_pdf, name="as_handed_pdf"),
    path("as/<int:number>/job.json", views.as_handed_file, name="as_handed_file"),
]
