"""Addresses: the interface, derived pictures, and the application's one page for everything else."""

from django.urls import include, path, re_path

from gelvet.site.api.api import api, nothing_there
from gelvet.site.shell import application_page

urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api/", nothing_there),
    path("_allauth/", include("allauth.headless.urls")),
    re_path(r"^(?!api/|static/|_allauth/).*$", application_page, name="application"),
]
