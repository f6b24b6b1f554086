"""Settings for one machine: SQLite, workers beside the web server, everything served from here."""

import os
import re
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parents[2]
# Everything that the application keeps: database, originals, tiles, its secret.
DATA_DIR = Path(os.environ.get("GELVET_DATA", BASE_DIR / "data")).resolve()
FRONTEND_DIST = BASE_DIR / "frontend" / "dist"


def _secret_key() -> str:
    """A key of this installation's own, made once and kept beside the data."""
    from django.core.management.utils import get_random_secret_key

    path = DATA_DIR / "secret-key"
    if not path.exists():
        DATA_DIR.mkdir(parents=True, exist_ok=True)
        path.write_text(get_random_secret_key())
        path.chmod(0o600)
    return path.read_text()


SECRET_KEY = os.environ.get("GELVET_SECRET_KEY") or _secret_key()
DEBUG = False
# No sign-in: this installation answers on the loopback address only, and gelvet.site.checks refuses anything else.
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]

INSTALLED_APPS = [
    "django.contrib.staticfiles",
    "django_tasks",
    "django_tasks_db",
    "django_vite",
    "gelvet.site.library",
    "gelvet.site.bench",
    "gelvet.site.captures",
    "gelvet.site.results",
    "gelvet.site.demo",
    "gelvet.site.api",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "gelvet.site.urls"
WSGI_APPLICATION = "gelvet.site.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE_DIR / "gelvet/site/templates"],
        "OPTIONS": {"context_processors": []},
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": os.environ.get("GELVET_DATABASE", DATA_DIR / "gelvet.sqlite3"),
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;",
        },
        "TEST": {"NAME": DATA_DIR / "test.sqlite3"},
    }
}
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": ["default"]}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en-gb"

STATIC_URL = "/static/"
STATIC_ROOT = DATA_DIR / "static"
STATICFILES_DIRS = [FRONTEND_DIST] if FRONTEND_DIST.exists() else []
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = False


def _immutable(path: str, url: str) -> bool:
    return re.match(r"^/static/assets/.+-[\w-]{8}\.\w+$", url) is not None


WHITENOISE_IMMUTABLE_FILE_TEST = _immutable
DJANGO_VITE = {"default": {"dev_mode": False, "manifest_path": FRONTEND_DIST / ".vite" / "manifest.json"}}

ORIGINALS_DIR = DATA_DIR / "originals"
DERIVED_DIR = DATA_DIR / "derived"
# A worker that has not been heard of for this long is taken for dead and its job is taken up again.
JOB_LEASE_SECONDS = 12
JOB_ATTEMPTS = 3
# An original larger than this is refused before it is stored (an A3 scan at 1200 dpi, 16 bit, is 1.7 GB).
MAXIMUM_UPLOAD_BYTES = 2_000_000_000
DATA_UPLOAD_MAX_MEMORY_SIZE = None
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_500_000

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "loggers": {
        "django_tasks": {"handlers": ["console"], "level": "WARNING", "propagate": False},
        "gelvet": {"handlers": ["console"], "level": "INFO"},
    },
}
