"""The application's addresses and an empty one."""

from django.contrib.auth.decorators import login_not_required
from django.http import HttpResponse
from django.urls import path

from workbench.urls import urlpatterns as own


@login_not_required
def empty(request):
    return HttpResponse("")


urlpatterns = [path("empty/", empty), *own]
