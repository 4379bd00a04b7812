"""Settings of the server. Everything that differs between installations comes from the environment.

UNDERHOOD_DEMO=1      lets one click enter the demo workshop
UNDERHOOD_DATA        directory of database and secret (default: var/ where the server is started)
UNDERHOOD_HOSTS       comma-separated host names, besides this machine's own loopback
UNDERHOOD_HTTPS=1     everybody comes by an HTTPS proxy in front: cookies and links are for HTTPS alone
UNDERHOOD_PROXIES     how many proxies stand in front, each adding to X-Forwarded-For (default: 1 with HTTPS, else 0)
UNDERHOOD_INSTRUMENTS comma-separated hosts of instruments (default: any of a private network but this machine)
UNDERHOOD_BENCH_PORT  port of the stand-in bench, on 127.0.0.1 alone (default: 5225)
"""

import os
import secrets
from pathlib import Path

from django.utils.functional import lazy

PACKAGE = Path(__file__).resolve().parents[1]
DATA_DIR = Path(os.environ.get("UNDERHOOD_DATA", "var")).absolute()
DEMO = os.environ.get("UNDERHOOD_DEMO") == "1"
BENCH_PORT = int(os.environ.get("UNDERHOOD_BENCH_PORT", "5225"))
HTTPS = os.environ.get("UNDERHOOD_HTTPS") == "1"
INTERFACE = PACKAGE / "interface"
"""The built interface."""


def _secret() -> str:
    """The secret key, made once and kept beside the database; asked for when something is first signed."""
    path = DATA_DIR / "secret"
    if not path.exists():
        DATA_DIR.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()


SECRET_KEY = lazy(_secret, str)()
DEBUG = False
ALLOWED_HOSTS = list(
    dict.fromkeys(["127.0.0.1", "localhost", *filter(None, os.environ.get("UNDERHOOD_HOSTS", "").split(","))])
)
PROXIES = int(os.environ.get("UNDERHOOD_PROXIES", "1" if HTTPS else "0"))
INSTRUMENT_HOSTS = tuple(filter(None, os.environ.get("UNDERHOOD_INSTRUMENTS", "").split(",")))

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "django_tasks",
    "django_tasks_db",
    "underhood_server.config",
    "underhood_server.storage",
    "underhood_server.api",
    "underhood_server.accounts",
    "underhood_server.bench",
    "underhood_server.jobs",
    "underhood_server.parts",
    "underhood_server.plans",
    "underhood_server.proof",
    "underhood_server.instruments",
    "underhood_server.reports",
    "underhood_server.records",
    "underhood_server.archives",
    "underhood_server.demo",
]
MIDDLEWARE = [
    "underhood_server.config.request_log.RequestLogMiddleware",
    "underhood_server.api.problems.ProblemMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "underhood_server.api.packed.PackedAnswersMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "underhood_server.api.uploads.UploadMiddleware",
    "underhood_server.api.packed.PackedMiddleware",
    "underhood_server.accounts.sign_ins.SeenMiddleware",
    "underhood_server.storage.trail.ActingMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "underhood_server.config.urls"
WSGI_APPLICATION = "underhood_server.config.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [INTERFACE], "APP_DIRS": True}]

CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"},
    # Forecasts of some 40 kB each, shared by the server's processes, readable by their owner alone.
    "results": {
        "BACKEND": "django.core.cache.backends.filebased.FileBasedCache",
        "LOCATION": DATA_DIR / "results",
        "TIMEOUT": 3600,
        "OPTIONS": {"MAX_ENTRIES": 400},
    },
}

DATABASES = {
    "default": {
        "ENGINE": "underhood_server.config.sqlite",
        "NAME": DATA_DIR / ("demo.sqlite3" if DEMO else "under-hood.sqlite3"),
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 10,
            # FULL: what was acknowledged survives a power cut, not only the end of the server.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
        # On disk, so that tests meet the same locking as a workshop does.
        "TEST": {"NAME": DATA_DIR / "test.sqlite3"},
    }
}
DAILY_BACKUPS = True
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.Argon2PasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",  # of earlier releases; hashed anew at the next log-in
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{rule}", "OPTIONS": options}
    for rule, options in (
        ("MinimumLengthValidator", {"min_length": 10}),
        ("UserAttributeSimilarityValidator", {"user_attributes": ["username"]}),
        ("CommonPasswordValidator", {}),
        ("NumericPasswordValidator", {}),
    )
]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25  # hours
AXES_LOCKOUT_CALLABLE = "underhood_server.api.problems.locked_out"
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
LOG_IN_TRIES = {"address": 30, "name": 40}
"""Wrong passwords within the cool-off from one address with any name, and for one name from anywhere."""

LANGUAGE_CODE = "en"
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "/static/"
STATICFILES_DIRS = [INTERFACE] if INTERFACE.exists() else []
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = False
# Names that hold the hash of what is in them: a changed file has another name.
WHITENOISE_IMMUTABLE_FILE_TEST = r"/assets/.+-[\w-]{8}\.\w+$"

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'self'"],
        # Charts and menus position themselves with style attributes.
        "style-src": ["'self'", "'unsafe-inline'"],
        "img-src": ["'self'", "data:"],
        "frame-ancestors": ["'none'"],
        "base-uri": ["'none'"],
        "form-action": ["'self'"],
    }
}
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
# Every request counts as HTTPS then (`config.proxy`), so that nothing is ever redirected in a circle.
SECURE_SSL_REDIRECT = HTTPS
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if HTTPS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = HTTPS
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS] if HTTPS else []
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
DATA_UPLOAD_MAX_MEMORY_SIZE = 12_000_000
UPLOAD_MAX_BYTES = 520_000_000  # of any form with files; each address has its own limit (`api.uploads`)
HEAVY_WORK_HERE = False

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"underhood.requests": {"level": "INFO"}},
}
TEST_RUNNER = "underhood_server.config.test_runner.CountingRunner"
