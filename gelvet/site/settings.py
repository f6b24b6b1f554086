"""Settings for one machine: SQLite, workers beside the web server, everything served from here."""

import os
import re
from datetime import timedelta
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
# Without sign-in this installation answers on the loopback address only, and gelvet.site.checks refuses anything else.
# A shared bench names the addresses by which others reach it (GELVET_HOSTS), and then everybody signs in.
SHARED_HOSTS = [host for host in os.environ.get("GELVET_HOSTS", "").split(",") if host]
SIGN_IN = bool(SHARED_HOSTS)
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *SHARED_HOSTS]
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in SHARED_HOSTS]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "reversion",
    "allauth",
    "allauth.account",
    "allauth.headless",
    "axes",
    "django_tasks",
    "django_tasks_db",
    "django_vite",
    "gelvet.site.people",
    "gelvet.site.history",
    "gelvet.site.library",
    "gelvet.site.bench",
    "gelvet.site.captures",
    "gelvet.site.results",
    "gelvet.site.search",
    "gelvet.site.demo",
    "gelvet.site.api",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "gelvet.site.people.person.PersonMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "axes.middleware.AxesMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
]
# Sign-in is throttled by name and address: five failures, then ten minutes of rest.
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=10)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_VERBOSE = False
ACCOUNT_ADAPTER = "gelvet.site.people.adapters.ClosedAccounts"
ACCOUNT_LOGIN_METHODS = {"username"}
ACCOUNT_SIGNUP_FIELDS = ["username*", "password1*", "password2*"]
ACCOUNT_EMAIL_VERIFICATION = "none"
HEADLESS_ONLY = True
HEADLESS_CLIENTS = ("browser",)
HEADLESS_FRONTEND_URLS: dict[str, str] = {}
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
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
        # Each thread keeps its connection: opening one costs as much as a small answer.
        "CONN_MAX_AGE": 300,
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
WORK_DIR = DATA_DIR / "work"  # unfinished uploads, and what a watched folder has handed on
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
        # A fault of our own must leave its trace where the person who runs this looks.
        "django.request": {"handlers": ["console"], "level": "ERROR", "propagate": False},
    },
}
