"""Settings; everything that differs between machines comes from the environment."""

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
DATA = Path(os.environ.get("IRONCAULK_DATA", ROOT / ".data"))
WEB_BUILD = Path(os.environ.get("IRONCAULK_WEB_BUILD", ROOT / "web" / "dist"))

DEBUG = False
SECRET_KEY = os.environ.get("IRONCAULK_SECRET_KEY", "only for tests and for building the schema")
ALLOWED_HOSTS = os.environ.get("IRONCAULK_HOSTS", "localhost,127.0.0.1,[::1]").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "rest_framework",
    "drf_spectacular",
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
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "pghistory.middleware.HistoryMiddleware",
]
ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"
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

STORAGES = {
    "default": {
        "BACKEND": os.environ.get("IRONCAULK_STORAGE", "work.storage.WholeFileStorage"),
    },
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
MEDIA_ROOT = DATA / "files"
STATIC_URL = "/static/"
WHITENOISE_ROOT = WEB_BUILD if WEB_BUILD.is_dir() else None
WHITENOISE_INDEX_FILE = False

AUTH_PASSWORD_VALIDATORS: list[dict[str, str]] = []
LANGUAGE_CODE = "en-gb"
TIME_ZONE = os.environ.get("TZ", "UTC")
USE_TZ = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
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
DATA_UPLOAD_MAX_MEMORY_SIZE = 5_000_000
FILE_UPLOAD_TEMP_DIR = None

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": os.environ.get("IRONCAULK_LOG", "WARNING")},
}
