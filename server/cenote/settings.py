"""Settings. Everything that differs between machines comes from the environment (see bin/common)."""

import os
from pathlib import Path

from csp.constants import NONE, SELF, UNSAFE_INLINE
from django.core.exceptions import ImproperlyConfigured

from .machine import memory

ROOT = Path(__file__).resolve().parent.parent.parent
VAR = Path(os.environ.get("CENOTE_VAR", ROOT / "var"))
WEB_DIST = ROOT / "web" / "dist"

SECRET_KEY = os.environ.get("CENOTE_SECRET_KEY", "")
if not SECRET_KEY:
    # A secret that stands in the code is none: whoever reads it could sign sessions of anybody.
    raise ImproperlyConfigured("CENOTE_SECRET_KEY is not set. bin/start makes one and keeps it in var/secret.")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("CENOTE_HOSTS", "127.0.0.1,localhost,testserver").split(",")
CSRF_TRUSTED_ORIGINS = [o for o in os.environ.get("CENOTE_ORIGINS", "").split(",") if o]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "procrastinate.contrib.django",
    "accounts",
    "sites",
    "kit",
    "work",
    "served",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "cenote.middleware.PlainErrors",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "sites.asking.Asking",
]
ROOT_URLCONF = "served.urls"
ASGI_APPLICATION = "served.asgi.application"
TEMPLATES: list[dict] = []

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "HOST": os.environ.get("CENOTE_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("CENOTE_DB_PORT", "5432"),
        "NAME": os.environ.get("CENOTE_DB_NAME", "cenote"),
        "USER": os.environ.get("CENOTE_DB_USER", "cenote"),
        "PASSWORD": os.environ.get("CENOTE_DB_PASSWORD", ""),
        # Every request has a thread of its own, so connections are pooled rather than kept by thread. A connection
        # is checked before use: a restarted database costs one reconnect and no error.
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"pool": {"min_size": 2, "max_size": 16, "timeout": 10}}
        if os.environ.get("CENOTE_DB_POOL", "1") == "1"
        else {},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_PASSWORD_VALIDATORS = [{"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"}]
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "served.urls.csrf_failed"
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "base-uri": [NONE],
        "object-src": [NONE],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
        # Pictures are also made in the page: thumbnails, and the sign in its tab.
        "img-src": [SELF, "data:", "blob:"],
        "worker-src": [SELF, "blob:"],
        # The components' styles are written into the page while it runs.
        "style-src": [SELF, UNSAFE_INLINE],
    }
}

TLS = os.environ.get("CENOTE_TLS", "0") == "1"
"""Is it reached by https alone? Then cookies travel by nothing else, and browsers are told to remember that."""
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = TLS
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = TLS
# What ends TLS before it says so in a header, which is believed of trusted addresses alone: see bin/start.
SECURE_SSL_REDIRECT = TLS

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"

STATIC_URL = "/static/"
STATICFILES_DIRS = [WEB_DIST / "assets"] if (WEB_DIST / "assets").exists() else []
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.exists() else None
WHITENOISE_INDEX_FILE = False
WHITENOISE_USE_FINDERS = False

MEDIA_ROOT = VAR / "files"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
CACHE_FOLDER = VAR / "cache"
UPLOAD_LIMIT = 200 * 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = 12 * 1024 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024
COMPUTING = int(os.environ.get("CENOTE_COMPUTING", "0"))
"""Requests that compute at once in a web process; 0: twice as many as there are processors, for one person has at most half."""
COMPUTING_SECONDS, COMPUTING_WAIT_SECONDS = 180, 45
"""Seconds that one request may compute and wait for others altogether, and that it waits for its turn."""
IN_USE = VAR / "in-use"
"""A file whose time tells when a request computed last."""
IMPORT_BYTES = 4 * 1024**3
"""Memory that reading a file which is brought in may take."""
IMPORT_SECONDS = 180
JOB_SECONDS = 30 * 60
JOB_BYTES = int(0.8 * memory())
"""Memory that a job may hold: more, and the machine would begin to kill by its own choice."""
SITE_BYTES = int(float(os.environ.get("CENOTE_SITE_GB", "4")) * 1e9)
"""Files of proofs and hand-overs that are kept of a site; the oldest go first."""
SITE_IMPORT_BYTES = int(float(os.environ.get("CENOTE_SITE_IMPORT_GB", "2")) * 1e9)
"""Files that are brought in for a site."""
PUT_AWAY_DAYS = 60
"""Days for which sites that were put away, and what was taken out of a kit, can be brought back."""
MOST_PAUSE_SECONDS = 5 * 60
"""Seconds that long work steps aside for rough proofs before it goes on beside them."""

TEST_RUNNER = "cenote.runner.CountingRunner"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
