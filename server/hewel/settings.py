"""Settings, all of them from the environment that ``./hewel`` prepares; nothing here names a machine."""

import os
from datetime import timedelta
from pathlib import Path

from csp.constants import NONCE, NONE, SELF
from django.core.exceptions import ImproperlyConfigured
from psycopg.conninfo import conninfo_to_dict

ROOT = Path(__file__).resolve().parent.parent.parent


def _needed(name: str) -> str:
    try:
        return os.environ[name]
    except KeyError:
        raise ImproperlyConfigured(f"{name} is not set; start Hewel with ./hewel up.") from None


SECRET_KEY = _needed("HEWEL_SECRET_KEY")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("HEWEL_HOSTS", "127.0.0.1,localhost,[::1]").split(",")
HTTPS = os.environ.get("HEWEL_HTTPS") == "1"
PROXIES = int(os.environ.get("HEWEL_PROXIES", "0"))
"""Proxies of ours between whoever asks and this server."""

STAGES = ["studies", "overhangs", "remedies", "pieces", "walls", "strength", "hardware", "fit", "batch"]
"""The apps of stages that are computed, in the order of the work. Each has its record in ``stage``, its addresses in
``api`` and, where it is on the list of stages, its state in ``queries``.
"""
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "procrastinate.contrib.django",
    "csp",
    "axes",
    "accounts",
    "audit",
    "store",
    "sheets",
    "farm",
    "needs",
    "work",
    "parts",
    *STAGES,
    "week",
    "floor",
    "coupons",
    "trials",
    "gauge",
    "release",
    "practice",
    "desk",
]

COMPUTATIONS = ["desk.intake", *(f"{app}.stage" for app in STAGES), "batch.prepared", "week.improving", "desk.demo"]
"""Modules that name kinds of long work, see ``work.computations``."""

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "hewel.repeated.RepeatedQuestions",
    "hewel.one_state.OneState",
]

ROOT_URLCONF = "hewel.urls"
WSGI_APPLICATION = "hewel.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [], "APP_DIRS": True}]

_db = conninfo_to_dict(_needed("HEWEL_DATABASE"))
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": _db.get("dbname"),
        "USER": _db.get("user"),
        "PASSWORD": _db.get("password", ""),
        "HOST": _db.get("host"),
        "PORT": _db.get("port"),
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"pool": {"min_size": 1, "max_size": 12, "timeout": 20}},  # of a process, whatever its threads
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
# Guessing a password is slowed per name and address, so that nobody can lock somebody else out from elsewhere.
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=10)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_CLIENT_IP_CALLABLE = "accounts.addresses.address_of"
AXES_RESET_ON_SUCCESS = True
AXES_ENABLE_ACCESS_FAILURE_LOG = False
AXES_VERBOSE = False
SILENCED_SYSTEM_CHECKS = ["axes.W002"]  # its middleware words the refusal; accounts.api does that here
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "accounts.passwords.NotOneCharacter"},
]

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"

# The front end: whitenoise serves its hashed files; the page itself is hewel.views.page, which adds the nonce.
WEB_DIST = ROOT / "web" / "dist"
WHITENOISE_ROOT = WEB_DIST / "served" if (WEB_DIST / "served").is_dir() else None
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[\w-]{8}\.\w+$"
STATIC_URL = "/static/"

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF, NONCE],
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "worker-src": [SELF, "blob:"],
        "base-uri": [NONE],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}
X_FRAME_OPTIONS = "DENY"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
SECURE_CROSS_ORIGIN_OPENER_POLICY = "same-origin"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
SECURE_SSL_REDIRECT = HTTPS
SECURE_REDIRECT_EXEMPT = [r"^healthy$", r"^metrics$"]  # asked for from this machine
if HTTPS and PROXIES:  # only where a proxy of ours writes the header, whatever it was sent
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS else 0
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "hewel.errors.forbidden"

# Uploads go through a temporary file, never wholly through memory twice.
FILE_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024
UPLOAD_LIMIT = 200 * 1024 * 1024

WORK_STALE = float(os.environ.get("HEWEL_WORK_STALE", "20"))
"""Seconds without a sign of life after which running work is given to another worker."""

STUDY_MOST = int(os.environ.get("HEWEL_STUDY_MOST", 40))
"""Directions that a study slices, at most."""
STRENGTH_CUBES = int(os.environ.get("HEWEL_STRENGTH_CUBES", 250_000))
"""Cubes of material of a check's full answer: fewer are sooner solved, and coarser."""
FARM_ADDRESS, FARM_TOKEN = os.environ.get("HEWEL_FARM", ""), os.environ.get("HEWEL_FARM_TOKEN", "")
"""Where the simulated farm is asked, and what it is told by whoever asks; empty where none runs."""
STAND_ADDRESS, STAND_TOKEN = os.environ.get("HEWEL_STAND", ""), os.environ.get("HEWEL_STAND_TOKEN", "")
"""Where the simulated test stand is asked, and what it is told by whoever asks; empty where none runs."""
MACHINE_FOLDERS = os.environ.get("HEWEL_MACHINES", "")
"""Folder below which every machine that is reached by files has one of its own."""
FOLLOW_SECONDS = 1.0
"""Between two looks at the machines."""

WEEK_SECONDS = float(os.environ.get("HEWEL_WEEK_SECONDS", "10"))
"""Seconds of work that the solver may spend on a week."""
TASK_MEMORY = 4 * 1024**3
"""Bytes of data that one heavy task may hold before it is ended."""

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s %(message)s"}},
    "handlers": {"out": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["out"], "level": "WARNING"},
}
