"""Settings: served on this machine only, as in production. Everything of the user is in DATA."""

import os
from pathlib import Path

from platformdirs import user_data_path

from circuitry.document.reading import MAX_BYTES
from oilstone.private import make_private, secret_key

PACKAGE = Path(__file__).resolve().parent
ROOT = PACKAGE.parent
INSTALLED = (PACKAGE / "frontend").exists()
"""From a wheel, which brings the front end and the demo cars; else from a checkout, as by make."""
KEPT_IN = user_data_path("oilstone") if INSTALLED else ROOT / "data"
DATA = Path(os.environ.get("OILSTONE_DATA", KEPT_IN))
DEMO = PACKAGE / "demo" if INSTALLED else ROOT / "demo"
START, RESTORE = ("oilstone", "oilstone restore") if INSTALLED else ("make demo", "make restore")
COPY_GIVEN = "" if INSTALLED else "COPY="
"""What is typed to start, to take a copy of the data back, and before the name of one."""
make_private(DATA)
LOG_FILE = DATA / "oilstone.log"
FRONTEND = PACKAGE / "frontend" if INSTALLED else ROOT / "frontend" / "dist"

SECRET_KEY = secret_key(DATA / "secret_key")
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
PHONE_ADDRESS = os.environ.get("OILSTONE_PHONE_ADDRESS", "")
"""Where phones are let in while the builder says so; this machine's own address when empty."""
PHONE_PORT = int(os.environ.get("OILSTONE_PHONE_PORT", "8443"))

INSTALLED_APPS = ["ninja", "oilstone.builds"]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "oilstone.doors.DoorsMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.middleware.http.ConditionalGetMiddleware",
    "oilstone.work.WorkMiddleware",
]
SILENCED_SYSTEM_CHECKS = ["security.W003", "security.W004", "security.W008"]
"""Cookies for forgery, and TLS: each is answered in docs/architecture.md, under Doors."""
ROOT_URLCONF = "oilstone.urls"
WSGI_APPLICATION = "oilstone.wsgi.application"
TEST_RUNNER = "oilstone.test_runner.CountingRunner"

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "oilstone.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
        "TEST": {"NAME": DATA / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
DATA_UPLOAD_MAX_MEMORY_SIZE = MAX_BYTES
LARGEST_REQUEST_BYTES = 400_000_000

USE_TZ = True
TIME_ZONE = "UTC"
USE_I18N = False
STATIC_URL = "/static/"

WHITENOISE_ROOT = FRONTEND if FRONTEND.exists() else None
WHITENOISE_INDEX_FILE = False
WHITENOISE_ALLOW_ALL_ORIGINS = False

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"dated": {"format": "%(asctime)s %(levelname)s %(name)s %(message)s"}},
    "handlers": {
        "file": {
            "class": "logging.handlers.RotatingFileHandler",
            "filename": LOG_FILE,
            "maxBytes": 1_000_000,
            "backupCount": 3,
            "delay": True,
            "formatter": "dated",
        },
    },
    "loggers": {
        "oilstone": {"handlers": ["file"], "level": "INFO", "propagate": False},
        "django.request": {"handlers": ["file"], "level": "ERROR", "propagate": False},
    },
}


def WHITENOISE_IMMUTABLE_FILE_TEST(path: str, url: str) -> bool:  # noqa: N802
    """Files that the front-end build names by their content never change."""
    return url.startswith("/assets/")
