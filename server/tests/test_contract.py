"""What must never drift apart: models and migrations, the schema and the types made from it."""

from pathlib import Path

from django.core.management import call_command

from hewel.schema import schema

WEB = Path(__file__).resolve().parents[2] / "web"


def test_no_migration_is_missing(db):
    call_command("makemigrations", check=True, dry_run=True, verbosity=0)


def test_schema_is_the_one_the_types_were_made_from():
    assert (WEB / "openapi.json").read_text() == schema(), "run ./hewel test types after changing the API, and commit"


def test_a_deploy_check_finds_nothing_serious(settings):
    settings.SECRET_KEY = "k" * 60 + "abcdefgh"
    settings.SECURE_SSL_REDIRECT = settings.SESSION_COOKIE_SECURE = settings.CSRF_COOKIE_SECURE = True
    settings.SECURE_HSTS_SECONDS = 31_536_000
    call_command("check", deploy=True, fail_level="ERROR")
