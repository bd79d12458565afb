"""Log in, log out."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from workbench.accounts.views import LogIn

app_name = "accounts"
urlpatterns = [
    path("log-in/", LogIn.as_view(), name="login"),
    path("log-out/", LogoutView.as_view(), name="logout"),
]
