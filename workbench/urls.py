"""All addresses, one app after the other."""

from django.urls import include, path

from workbench.views import health

urlpatterns = [
    path("health/", health, name="health"),
    path("", include("workbench.accounts.urls")),
    path("", include("workbench.shelf.urls")),
    path("jobs/<int:job>/", include("workbench.jobs.urls")),
    path("jobs/<int:job>/brief/", include("workbench.brief.urls")),
    path("jobs/<int:job>/mount/", include("workbench.mount.urls")),
    path("jobs/<int:job>/dash/", include("workbench.dash.urls")),
    path("library/", include("workbench.library.urls")),
    path("jobs/<int:job>/ports/", include("workbench.ports.urls")),
    path("jobs/<int:job>/feeds/", include("workbench.feeds.urls")),
    path("jobs/<int:job>/harness/", include("workbench.harness.urls")),
    path("jobs/<int:job>/displays/", include("workbench.displays.urls")),
    path("jobs/<int:job>/switches/", include("workbench.switches.urls")),
    path("jobs/<int:job>/scaling/", include("workbench.scaling.urls")),
    path("jobs/<int:job>/work/", include("workbench.work.urls")),
    path("jobs/<int:job>/proving/", include("workbench.proving.urls")),
    path("jobs/<int:job>/faults/", include("workbench.faults.urls")),
    path("jobs/<int:job>/handover/", include("workbench.handover.urls")),
    path("jobs/<int:job>/printing/", include("workbench.printing.urls")),
]

handler400 = "workbench.views.bad_request"
handler403 = "workbench.views.forbidden"
handler404 = "workbench.views.not_found"
handler500 = "workbench.views.server_error"
