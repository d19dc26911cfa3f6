"""Settings: served on this machine only, as in production. Everything of the user is in DATA."""

import os
from pathlib import Path

from circuitry.build.document import MAX_BYTES
from server.secret import secret_key

ROOT = Path(__file__).resolve().parent.parent
DATA = Path(os.environ.get("OILSTONE_DATA", ROOT / "data"))
DATA.mkdir(parents=True, exist_ok=True)
FRONTEND = ROOT / "frontend" / "dist"

SECRET_KEY = secret_key(DATA / "secret_key")
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]

INSTALLED_APPS = ["ninja", "server.builds"]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "server.same_origin.SameOriginMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.middleware.http.ConditionalGetMiddleware",
]
ROOT_URLCONF = "server.urls"
WSGI_APPLICATION = "server.wsgi.application"
TEST_RUNNER = "server.test_runner.CountingRunner"

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

USE_TZ = True
TIME_ZONE = "UTC"
USE_I18N = False
STATIC_URL = "/static/"

WHITENOISE_ROOT = FRONTEND if FRONTEND.exists() else None
WHITENOISE_INDEX_FILE = False


def WHITENOISE_IMMUTABLE_FILE_TEST(path: str, url: str) -> bool:  # noqa: N802
    """Files that the front-end build names by their content never change."""
    return url.startswith("/assets/")
