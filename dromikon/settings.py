"""Django settings."""

import os
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF

from dromikon import config, logs, secrets

BASE = Path(__file__).resolve().parent
SECRET_KEY = secrets.derived("django").hex()
DEBUG = False
ALLOWED_HOSTS = os.environ.get("DROMIKON_HOSTS", "localhost,127.0.0.1,[::1]").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "dromikon.sites",
    "dromikon.people",
    "dromikon.installation",
    "dromikon.hours",
    "dromikon.lists",
    "dromikon.sources",
    "dromikon.rulebook",
    "dromikon.daybook",
    "dromikon.desk",
    "dromikon.archive",
    "dromikon.records",
    "dromikon.cases",
    "dromikon.keeping",
    "dromikon.web",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.locale.LocaleMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
    "dromikon.web.middleware.DatabaseTrouble",
    "dromikon.web.middleware.PasswordFirst",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "dromikon.urls"
ASGI_APPLICATION = "dromikon.asgi.application"
#: Whoever works on templates, styles and scripts wants them as they lie; else templates are kept, and styles and scripts
#: gathered when the web process begins.
_AS_THEY_LIE = os.environ.get("DROMIKON_DEV") == "1"
_LOADERS = ["django.template.loaders.filesystem.Loader", "django.template.loaders.app_directories.Loader"]
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE / "web" / "templates"],
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "django.template.context_processors.i18n",
                "dromikon.web.context.frame",
            ],
            "builtins": ["dromikon.web.templatetags.kit"],
            "loaders": _LOADERS if _AS_THEY_LIE else [("django.template.loaders.cached.Loader", _LOADERS)],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "dromikon.database",
        "NAME": config.database(),
        "OPTIONS": {
            "timeout": 10,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA cache_size=-32000;",
        },
        # Tests take the tables from the models; that migrations lead to the same, and old data with them, is checked apart.
        "TEST": {"NAME": config.data() / "test.sqlite3", "MIGRATE": False},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "people.Person"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}}
]
LOGIN_URL = "/login"
LOGIN_REDIRECT_URL = "/"
LOGOUT_REDIRECT_URL = "/login"
SESSION_COOKIE_AGE = 12 * 3600
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
HTTPS = os.environ.get("DROMIKON_HTTPS") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
#: Behind TLS a browser never comes without it again.
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS else 0

AXES_HANDLER = "dromikon.people.lockout.Handler"
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_TEMPLATE = "people/locked.html"
AXES_VERBOSE = False
#: Log-ins are noted in the product's own way, which is pruned (people/visits.py).
AXES_DISABLE_ACCESS_LOG = True

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "blob:", "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "worker-src": [SELF],
        "media-src": [SELF, "blob:"],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
        "base-uri": [NONE],
        "manifest-src": [SELF],
    }
}
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"

STATIC_URL = "/static/"
STATICFILES_DIRS = [BASE / "web" / "static"]
STATIC_ROOT = STATICFILES_DIRS[0] if _AS_THEY_LIE else config.data() / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
        if _AS_THEY_LIE
        else "dromikon.web.statics.GatheredStorage"
    },
}
WHITENOISE_USE_FINDERS = False
WHITENOISE_MAX_AGE = 60
WHITENOISE_AUTOREFRESH = _AS_THEY_LIE

LANGUAGE_CODE = "en-gb"
USE_I18N = True
#: Languages besides English: a folder for each, with LC_MESSAGES/django.mo, of the catalogue in `locale/django.pot`.
LOCALE_PATHS = [BASE / "locale", *config.locales()]
LANGUAGES = [
    ("en-gb", "English"),
    *((path.name, path.name) for folder in LOCALE_PATHS for path in sorted(folder.glob("*/"))),
]
USE_TZ = True
TIME_ZONE = "UTC"
#: A table of a list may have 5 MB; what is larger is refused before it is read.
DATA_UPLOAD_MAX_MEMORY_SIZE = 5_500_000

LOGGING = logs.configuration(str(config.data() / "logs"))
