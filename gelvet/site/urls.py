"""Addresses: the interface, derived pictures, and the application's one page for everything else."""

from django.urls import path, re_path

from gelvet.site.api.api import api
from gelvet.site.shell import application_page

urlpatterns = [
    path("api/", api.urls),
    re_path(r"^(?!api/|static/).*$", application_page, name="application"),
]
