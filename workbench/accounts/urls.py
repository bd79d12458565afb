"""Log in, log out."""

from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path

app_name = "accounts"
urlpatterns = [
    path(
        "log-in/",
        LoginView.as_view(template_name="accounts/login.html", redirect_authenticated_user=True),
        name="login",
    ),
    path("log-out/", LogoutView.as_view(), name="logout"),
]
