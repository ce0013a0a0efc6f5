"""Django's settings. What differs between installations comes from harquel.toml by way of the environment."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

DATA_DIR = Path(os.environ.get("HARQUEL_DATA_DIR", "var"))


def _secret_key() -> str:
    """Made once and kept beside the records, readable by their owner only."""
    path = DATA_DIR / "session.key"
    if not path.exists():
        DATA_DIR.mkdir(parents=True, exist_ok=True)
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(48))
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *os.environ.get("HARQUEL_HOSTS", "").split()]
ROOT_URLCONF = "harquel.service.urls"
INSTALLED_APPS = [
    "django.contrib.sessions",
    "rest_framework",
    "drf_spectacular",
    "harquel.service.access",
    "harquel.service.ledger",
    "harquel.service.inquiries",
    "harquel.service.sources",
    "harquel.service.usage",
    "harquel.service.outbox",
    "harquel.service.chat",
    "harquel.service.watches",
    "harquel.service.casebooks",
    "harquel.service.open_links",
]
MIDDLEWARE = [
    "harquel.service.hosts.OwnHosts",
    "django.middleware.security.SecurityMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA_DIR / "records.db",
        # Whose thread it is opens one and keeps it.
        "CONN_MAX_AGE": None,
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
        "TEST": {"NAME": DATA_DIR / "test-records.db"},
    }
}
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"
APPEND_SLASH = False
DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
SESSION_COOKIE_NAME = "harquel_session"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Strict"
SESSION_COOKIE_AGE = 12 * 3600
CSRF_COOKIE_NAME = "harquel_csrf"
CSRF_COOKIE_SAMESITE = "Strict"
CSRF_FAILURE_VIEW = "harquel.service.problems.csrf_failure"
# Behind a proxy that ends TLS, which says so in X-Forwarded-Proto and lets nobody else say it.
BEHIND_TLS = bool(os.environ.get("HARQUEL_BEHIND_TLS"))
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = BEHIND_TLS
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if BEHIND_TLS else None
SECURE_HSTS_SECONDS = 31_536_000 if BEHIND_TLS else 0
SECURE_REDIRECT_EXEMPT = [r"^healthz$", r"^readyz$", r"^metrics$"]
# Other hosts below the same name are for their own administrator to decide on.
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["harquel.service.access.authentication.TokenOrSession"],
    "DEFAULT_PERMISSION_CLASSES": ["harquel.service.access.permissions.OperationsOnly"],
    "DEFAULT_PARSER_CLASSES": ["rest_framework.parsers.JSONParser"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "EXCEPTION_HANDLER": "harquel.service.problems.handle",
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "UNAUTHENTICATED_USER": None,
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Harquel",
    "DESCRIPTION": "Answers from a relational database: guarded, reviewed, sandboxed and audited.",
    "VERSION": "1",
    "OAS_VERSION": "3.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "SCHEMA_PATH_PREFIX": "/api/v1",
    "SERVE_AUTHENTICATION": [],
    "SERVE_PERMISSIONS": [],
    "PREPROCESSING_HOOKS": [],
    "POSTPROCESSING_HOOKS": [
        "drf_spectacular.hooks.postprocess_schema_enums",
        "harquel.service.openapi.completed",
    ],
    "ENUM_NAME_OVERRIDES": {
        "InquiryState": ["queued", "working", "held", "ended"],
        "ScanState": ["running", "done", "stopped", "failed", "interrupted"],
        "ExampleState": ["new", "checked", "stale", "off"],
        "StepVerdict": ["well", "warning", "failed", "skipped"],
        "CheckVerdict": ["well", "warning", "failed"],
        "RulingVerdict": ["run", "hold", "refuse"],
        "ChartKind": ["line", "bars", "columns", "parts", "points", "grid"],
    },
}
LOGGING_CONFIG = None
