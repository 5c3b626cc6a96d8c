"""Settings of the service. Everything that differs between machines comes from the environment (see
ops/).
"""

import contextlib
import json
import os
import secrets
import tempfile
from ipaddress import ip_network
from pathlib import Path

from django.core.exceptions import ImproperlyConfigured

from service.config.logged import configured

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("NORTHPACE_VAR", ROOT / "var"))


def _secret() -> str:
    """The signing key: from the environment, or made once and kept beside the data.

    Several processes may be the first (web, worker and minder start together): the key is written
    aside and linked into place whole, so that nobody reads a half written one and all of them have
    the same.
    """
    if "NORTHPACE_SECRET" in os.environ:
        return os.environ["NORTHPACE_SECRET"]
    path = VAR / "secret"
    if not path.exists():
        VAR.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(
            "w", dir=VAR, prefix="secret-"
        ) as aside:  # readable by this user only
            aside.write(secrets.token_urlsafe(48))
            aside.flush()
            with contextlib.suppress(FileExistsError):
                os.link(aside.name, path)
    text = path.read_text().strip()
    if not text:
        raise ImproperlyConfigured(f"{path} is empty; delete it and start again")
    return text


SECRET_KEY = _secret()
DEBUG = os.environ.get("NORTHPACE_DEBUG") == "1"
ALLOWED_HOSTS = os.environ.get("NORTHPACE_HOSTS", "localhost,127.0.0.1").split(",")
CSRF_TRUSTED_ORIGINS = [
    origin for origin in os.environ.get("NORTHPACE_ORIGINS", "").split(",") if origin
]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "procrastinate.contrib.django",
    "rest_framework",
    "drf_spectacular",
    "service.accounts",
    "service.workshop",
    "service.parts",
    "service.plans",
    "service.beds",
    "service.jobs",
    "service.orders",
]

MIDDLEWARE = [
    "service.config.logged.numbered",
    "django.middleware.security.SecurityMiddleware",
    "service.config.guarded.content_policy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "service.accounts.rules.records.keep_record",
]

ROOT_URLCONF = "service.config.urls"
ASGI_APPLICATION = "service.config.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {"context_processors": ["django.template.context_processors.request"]},
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("NORTHPACE_DB_NAME", "northpace"),
        "USER": os.environ.get("NORTHPACE_DB_USER", "northpace"),
        "PASSWORD": os.environ.get("NORTHPACE_DB_PASSWORD", ""),
        "HOST": os.environ.get("NORTHPACE_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("NORTHPACE_DB_PORT", "5432"),
        "CONN_HEALTH_CHECKS": True,
    }
}

AUTH_PASSWORD_VALIDATORS = [
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    },
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "service.accounts.rules.passwords.NotOnlyNames"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]

# Files are content-addressed; another storage is a setting (django-storages), not another code
# path, and so are its options, as JSON.
OWN_STORAGE = "django.core.files.storage.FileSystemStorage"
STORAGE = os.environ.get("NORTHPACE_STORAGE", OWN_STORAGE)
try:
    STORAGE_OPTIONS = json.loads(os.environ.get("NORTHPACE_STORAGE_OPTIONS", "{}"))
except ValueError:
    STORAGE_OPTIONS = None
if not isinstance(STORAGE_OPTIONS, dict):
    raise ImproperlyConfigured(
        'NORTHPACE_STORAGE_OPTIONS is no JSON object, such as {"bucket_name": "plans"}'
    )
if STORAGE == OWN_STORAGE:
    STORAGE_OPTIONS = {"location": str(VAR / "files"), **STORAGE_OPTIONS}
STORAGES = {
    "default": {"BACKEND": STORAGE, "OPTIONS": STORAGE_OPTIONS},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
STATIC_URL = "static/"
WEB_DIST = ROOT / "web" / "dist"
WHITENOISE_ROOT = str(WEB_DIST) if WEB_DIST.exists() else None
WHITENOISE_INDEX_FILE = False

# slow to guess, at a third of the processor time of the default; kept ones change at the next
# sign-in
PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.ScryptPasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
DATA_UPLOAD_MAX_MEMORY_SIZE = 10_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 10_000_000
SESSION_COOKIE_AGE = 30 * 24 * 3600
SESSION_COOKIE_HTTPONLY = True
# behind a proxy that speaks TLS: NORTHPACE_SECURE=1, and the header it says so with
SECURE = os.environ.get("NORTHPACE_SECURE") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE
CSRF_FAILURE_VIEW = "service.config.errors.forged"
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if SECURE else 0
# Addresses or networks of the proxies in front of this: only they are believed where a request came
# from, and whether by TLS (service/config/asgi.py).
PROXIES = [word for word in os.environ.get("NORTHPACE_PROXIES", "").split(",") if word]
for _word in PROXIES:
    try:
        ip_network(_word)
    except ValueError as _error:
        raise ImproperlyConfigured(
            f"NORTHPACE_PROXIES: '{_word}' is no address or network, such as 127.0.0.1 or "
            "10.0.0.0/24"
        ) from _error
if "NORTHPACE_PROXY_HEADER" in os.environ:
    SECURE_PROXY_SSL_HEADER = (os.environ["NORTHPACE_PROXY_HEADER"], "https")
SESSION_COOKIE_SAMESITE = "Lax"

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["service.accounts.api.auth.Session"],
    "DEFAULT_PERMISSION_CLASSES": ["service.accounts.api.auth.IsMember"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "EXCEPTION_HANDLER": "service.config.errors.handle",
    "UNAUTHENTICATED_USER": "django.contrib.auth.models.AnonymousUser",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "North Pace",
    "VERSION": "1",
    "DESCRIPTION": "Parts, plans and jobs of a workshop.",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "POSTPROCESSING_HOOKS": [
        "drf_spectacular.hooks.postprocess_schema_enums",
        "service.config.typed.describe_places",
        "service.config.typed.describe_refusals",
    ],
    "ENUM_NAME_OVERRIDES": {
        "ConnectionKindEnum": "service.workshop.rules.printers.CONNECTIONS",
        "VersionStateEnum": "service.plans.models.PlanVersion.State",
        "CopyStateEnum": "service.jobs.rules.copies.STATES",
        "EntryKindEnum": "service.workshop.models.SpoolEntry.Kind",
    },
}
# A worker that stops giving signs of life for this long has lost its task to another one.
STALLED_AFTER = float(os.environ.get("NORTHPACE_STALLED_AFTER", "12"))
# Where printers and drives may be (service/workshop/rules/reach.py): networks, whether on this very
# machine, and folders.
PRINTER_NETWORKS = os.environ.get(
    "NORTHPACE_PRINTER_NETWORKS", "10.0.0.0/8,172.16.0.0/12,192.168.0.0/16,fc00::/7"
).split(",")
LOOPBACK_PRINTERS = os.environ.get("NORTHPACE_LOOPBACK_PRINTERS", "0") == "1"
FOLDER_ROOTS = os.environ.get("NORTHPACE_FOLDER_ROOTS", "/media,/mnt").split(",")
# Who reads /api/metrics (as `Authorization: Bearer …`); nobody where this is empty.
METRICS_TOKEN = os.environ.get("NORTHPACE_METRICS_TOKEN", "")
LAST_BACKUP = VAR / "last-backup.json"
# Processes that compute for one that asks (service/hands.py), by room: quick figures, exact trials,
# and what comes from the queue. 0 computes where it is asked.
CORES = os.cpu_count() or 2
HANDS = {
    "quick": int(os.environ.get("NORTHPACE_QUICK_HANDS", max(2, CORES // 4))),
    "exact": int(os.environ.get("NORTHPACE_EXACT_HANDS", "1")),
    "work": int(os.environ.get("NORTHPACE_WORK_HANDS", "1")),
}
# What a computation gets (service/limits.py), beside what grows with the mesh (s, MB).
READING_SECONDS = float(os.environ.get("NORTHPACE_READING_SECONDS", "20"))
PLANNING_SECONDS = float(os.environ.get("NORTHPACE_PLANNING_SECONDS", "600"))
PLANNING_MEGABYTES = float(os.environ.get("NORTHPACE_PLANNING_MB", "3000"))
FIGURING_SECONDS = float(os.environ.get("NORTHPACE_FIGURING_SECONDS", "20"))
CACHE_BYTES = int(os.environ.get("NORTHPACE_CACHE_MB", "800")) * 1_000_000
USE_TZ = True
TIME_ZONE = "UTC"
#: "plain" lines to read, or "json" for a program; with that, requests and tasks are logged too.
LOG = os.environ.get("NORTHPACE_LOG", "plain")
if LOG not in ("plain", "json"):
    raise ImproperlyConfigured("NORTHPACE_LOG is 'plain' or 'json'")
LOGGING = configured(
    LOG, os.environ.get("NORTHPACE_LOG_LEVEL", "INFO" if LOG == "json" else "WARNING").upper()
)
