"""Addresses: the interface, derived pictures, and the application's one page for everything else."""

from django.urls import include, path, re_path

from gelvet.site.api.api import api
from gelvet.site.shell import application_page

urlpatterns = [
    path("api/", api.urls),
    path("_allauth/", include("allauth.headless.urls")),
    re_path(r"^(?!api/|static/|_allauth/).*$", application_page, name="application"),
]
