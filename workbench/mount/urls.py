"""Mount: sites and what is in them, each display in its place, fit, templates."""

from django.urls import path

from workbench.mount import files, fit, photos, sites, views

app_name = "mount"
urlpatterns = [
    path("", views.show, name="show"),
    path("verdict/", views.verdict, name="verdict"),
    path("move/", views.move, name="move"),
    path("put/", views.put, name="put"),
    path("out/", views.out, name="out"),
    path("aim/", views.aim, name="aim"),
    path("pod/", views.pod, name="pod"),
    path("order/", views.order, name="order"),
    path("site/", sites.show, name="site"),
    path("site/start/", sites.start, name="site_start"),
    path("site/save/", sites.save, name="site_save"),
    path("site/outline/", sites.outline, name="site_outline"),
    path("site/remove/", sites.remove, name="site_remove"),
    path("part/", sites.part, name="part"),
    path("part/remove/", sites.part_remove, name="part_remove"),
    path("photo/", photos.take, name="photo_take"),
    path("photo/show.jpg", photos.photo, name="photo"),
    path("photo/trace/", photos.trace, name="photo_trace"),
    path("photo/out/", photos.throw_away, name="photo_out"),
    path("fit/", fit.show, name="fit"),
    path("fit/housing/", fit.housing, name="housing"),
    path("fit/hole/", fit.hole, name="hole"),
    path("template.svg", files.svg, name="template_svg"),
    path("template.dxf", files.dxf, name="template_dxf"),
    path("template.pdf", files.pdf, name="template_pdf"),
]
