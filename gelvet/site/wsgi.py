"""The application object that the web server calls."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "gelvet.site.settings")
application = get_wsgi_application()
