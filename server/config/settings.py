"""Settings; everything that differs between machines comes from the environment."""

import os
import secrets
from datetime import timedelta
from pathlib import Path

from csp.constants import NONCE, NONE, SELF

ROOT = Path(__file__).resolve().parents[2]
DATA = Path(os.environ.get("IRONCAULK_DATA", ROOT / ".data"))
WEB_BUILD = Path(os.environ.get("IRONCAULK_WEB_BUILD", ROOT / "web" / "dist"))

DEBUG = False
SECRET_KEY = os.environ.get("IRONCAULK_SECRET_KEY") or secrets.token_urlsafe(50)
"""Made at set-up; without one each process has its own, and the web server does not start."""
ALLOWED_HOSTS = os.environ.get("IRONCAULK_HOSTS", "localhost,127.0.0.1,[::1]").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "rest_framework",
    "django_filters",
    "drf_spectacular",
    "axes",
    "procrastinate.contrib.django",
    "pgtrigger",
    "pghistory",
    "people",
    "work",
    "materials",
    "orders",
    "bench",
    "dispatch",
    "items",
    "trail",
]
MIDDLEWARE = [
    "api.body_limit.BodyLimit",
    "api.private_answers.PrivateAnswers",
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "pghistory.middleware.HistoryMiddleware",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
ROOT_URLCONF = "config.urls"
ASGI_APPLICATION = "config.asgi.application"
TEMPLATES = [
    {"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True},
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("IRONCAULK_DB", "ironcaulk"),
        "USER": os.environ.get("IRONCAULK_DB_USER", "ironcaulk"),
        "PASSWORD": os.environ.get("IRONCAULK_DB_PASSWORD", ""),
        "HOST": os.environ.get("IRONCAULK_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("IRONCAULK_DB_PORT", "8421"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

S3_BUCKET = os.environ.get("IRONCAULK_S3_BUCKET", "")
"""Where files are kept on storage that speaks S3; a folder of this machine without it."""
_FOLDER = {"BACKEND": "work.storage.WholeFileStorage"}
_S3 = {
    "BACKEND": "storages.backends.s3.S3Storage",
    "OPTIONS": {
        "bucket_name": S3_BUCKET,
        "endpoint_url": os.environ.get("IRONCAULK_S3_ENDPOINT") or None,
        "access_key": os.environ.get("IRONCAULK_S3_ACCESS_KEY"),
        "secret_key": os.environ.get("IRONCAULK_S3_SECRET_KEY"),
        "region_name": os.environ.get("IRONCAULK_S3_REGION", "us-east-1"),
        "default_acl": None,
        "file_overwrite": True,
        "max_memory_size": 16_000_000,
    },
}
STORAGES = {
    "default": _S3 if S3_BUCKET else _FOLDER,
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
MEDIA_ROOT = DATA / "files"
STATIC_URL = "/static/"
WHITENOISE_ROOT = WEB_BUILD if WEB_BUILD.is_dir() else None
WHITENOISE_INDEX_FILE = False

_VALIDATORS = "django.contrib.auth.password_validation"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"{_VALIDATORS}.UserAttributeSimilarityValidator"},
    {"NAME": f"{_VALIDATORS}.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    {"NAME": f"{_VALIDATORS}.CommonPasswordValidator"},
    {"NAME": f"{_VALIDATORS}.NumericPasswordValidator"},
]
# A name is tried from one address so often; then no password is tried for a while
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_CALLABLE = "people.throttle.locked_out"
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False

LANGUAGE_CODE = "en-gb"
TIME_ZONE = os.environ.get("TZ", "UTC")
USE_TZ = True

# Doors. Behind a proxy that speaks TLS, `IRONCAULK_TLS=1` (docs/several-machines.md)
TLS = os.environ.get("IRONCAULK_TLS", "") == "1"
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = TLS
SESSION_COOKIE_AGE = 14 * 24 * 3600
CSRF_TRUSTED_ORIGINS = [x for x in os.environ.get("IRONCAULK_ORIGINS", "").split(",") if x]
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if TLS else None
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = TLS
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "img-src": [SELF, "data:", "blob:"],
        "style-src": [SELF, NONCE],
        "worker-src": [SELF, "blob:"],
        "object-src": [NONE],
        "base-uri": [NONE],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["people.permissions.Works"],
    "DEFAULT_PARSER_CLASSES": ["rest_framework.parsers.JSONParser"],
    "TEST_REQUEST_DEFAULT_FORMAT": "json",
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "EXCEPTION_HANDLER": "api.exception_handler.answer",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Ironcaulk",
    "VERSION": "1",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "POSTPROCESSING_HOOKS": [
        "drf_spectacular.hooks.postprocess_schema_enums",
        "api.schema.answers_are_whole",
    ],
    "ENUM_NAME_OVERRIDES": {
        "JobState": "work.models.Job.State",
        "JobKind": "bench.models.ItemJob.Kind",
    },
}

# The trail: events are written by triggers, and nobody changes them
PGHISTORY_APPEND_ONLY = True

# Limits
MAX_UPLOAD_BYTES = int(os.environ.get("IRONCAULK_MAX_UPLOAD_MB", "500")) * 1_000_000
JOB_MEMORY_BYTES = int(os.environ.get("IRONCAULK_JOB_MEMORY_MB", "6000")) * 1_000_000
JOB_SECONDS = int(os.environ.get("IRONCAULK_JOB_SECONDS", "900"))
JOB_TRIES = 3
WALLS_AT_ONCE: int | None = None
"""Triangles up to which walls are measured while somebody waits; as the core has it by default."""
JOB_USER = os.environ.get("IRONCAULK_JOB_USER", "nobody")
"""Who reads strangers' files where the worker is root."""
MAX_REQUEST_BYTES = 5_000_000
"""Of all requests but uploads."""
DATA_UPLOAD_MAX_MEMORY_SIZE = MAX_REQUEST_BYTES
DATA_UPLOAD_MAX_NUMBER_FILES = 1000
"""As many as one archive may hold."""
FILE_UPLOAD_TEMP_DIR = None

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": os.environ.get("IRONCAULK_LOG", "WARNING")},
}
