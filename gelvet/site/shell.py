"""The one page that carries the front end."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.csrf import ensure_csrf_cookie


@ensure_csrf_cookie
def application_page(request: HttpRequest) -> HttpResponse:
    return render(request, "application.html")
