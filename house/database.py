"""A PostgreSQL cluster of Hewel's own, on loopback, never the system's."""

import os
import pwd
import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from house.places import AS_ROOT, free_port, run

BIN = Path("/usr/lib/postgresql/15/bin")


class Cluster:
    """As root it runs under Debian's ``postgres`` user, otherwise under the caller."""

    def __init__(self, home: Path):
        self.home, self.data = home, home / "postgresql"
        self.process: subprocess.Popen | None = None
        self.port = 0

    @property
    def _prefix(self) -> list[str]:
        return ["runuser", "-u", "postgres", "--"] if AS_ROOT else []

    @property
    def user(self) -> str:
        return "hewel"

    def dsn(self, database: str = "hewel") -> str:
        return f"host=127.0.0.1 port={self.port} user={self.user} dbname={database} password={self._password()}"

    def _password(self) -> str:
        return (self.home / "database-password").read_text().strip()

    def create(self) -> None:
        if (self.data / "PG_VERSION").exists():
            return
        self.home.mkdir(parents=True, exist_ok=True)
        password = self.home / "database-password"
        password.touch(mode=0o600)
        password.write_text(os.urandom(18).hex() + "\n")
        if self.data.exists():  # left by an attempt that was broken off
            shutil.rmtree(self.data)
        self.data.mkdir(mode=0o700)
        if AS_ROOT:
            for folder in self.home.parents:  # every folder on the way must let the database's user through
                if folder.is_relative_to("/var/lib/hewel"):
                    folder.chmod(0o755)
            owner = pwd.getpwnam("postgres")
            for path in (self.data, password):
                os.chown(path, owner.pw_uid, owner.pw_gid)
        run(
            [*self._prefix, BIN / "initdb", "-D", self.data, "-U", self.user, "-E", "UTF8", "--locale=C.UTF-8",
             "--auth=scram-sha-256", "--pwfile", password],
            cwd=self.home if not AS_ROOT else "/",
        )  # fmt: skip

    def start(self) -> None:
        self._stop_leftover()
        self.port = free_port(self.home / "database-port", 54400)
        settings = {
            "port": self.port, "listen_addresses": "127.0.0.1", "unix_socket_directories": "",
            "logging_collector": "off", "max_connections": 60, "shared_buffers": "128MB",
        }  # fmt: skip
        words = [w for k, v in settings.items() for w in ("-c", f"{k}={v}")]
        log = open(self.home / "database.log", "ab")  # noqa: SIM115 (the child keeps it)
        self.process = subprocess.Popen(
            [*self._prefix, str(BIN / "postgres"), "-D", str(self.data), *words],
            stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True, cwd="/",
        )  # fmt: skip
        for _ in range(300):
            ready = subprocess.run([BIN / "pg_isready", "-q", "-h", "127.0.0.1", "-p", str(self.port)])
            if ready.returncode == 0:
                return
            if self.process.poll() is not None:
                break
            time.sleep(0.1)
        raise SystemExit(f"\nPostgreSQL did not start; its log is {self.home / 'database.log'}.")

    def _stop_leftover(self) -> None:
        """A cluster whose starter was killed goes on by itself; it is stopped before a new one starts."""
        if (self.data / "postmaster.pid").exists():
            subprocess.run(
                [*self._prefix, str(BIN / "pg_ctl"), "-D", str(self.data), "-m", "fast", "-w", "-t", "30", "stop"],
                capture_output=True, cwd="/",
            )  # fmt: skip

    def make_database(self, name: str = "hewel") -> None:
        env = {**os.environ, "PGPASSWORD": self._password()}
        base = ["-h", "127.0.0.1", "-p", str(self.port), "-U", self.user]
        listed = subprocess.run(
            [BIN / "psql", *base, "-d", "postgres", "-Atc", f"select 1 from pg_database where datname = '{name}'"],
            capture_output=True, text=True, env=env,
        )  # fmt: skip
        if listed.stdout.strip() != "1":
            run([BIN / "createdb", *base, name], env=env)

    def drop_database(self, name: str = "hewel") -> None:
        env = {**os.environ, "PGPASSWORD": self._password()}
        run(
            [BIN / "dropdb", "--if-exists", "--force", "-h", "127.0.0.1", "-p", str(self.port), "-U", self.user, name],
            env=env,
        )

    def _client(self, program: str, *words: str) -> None:
        env = {**os.environ, "PGPASSWORD": self._password()}
        run([BIN / program, "-h", "127.0.0.1", "-p", str(self.port), "-U", self.user, *words], env=env)

    def dump(self, file: Path, name: str = "hewel") -> None:
        """Everything in one file; written beside its place first, so that a broken-off dump is never taken for one."""
        part = file.with_name(file.name + ".part")
        part.touch(mode=0o600)  # it holds everything, so it is for its owner only
        part.chmod(0o600)
        self._client("pg_dump", "-Fc", "-d", name, "-f", str(part))
        part.replace(file)

    def load(self, file: Path, name: str = "hewel") -> None:
        """A dump into a database made anew; the old one goes only when the dump has proved whole."""
        fresh = name + "_restored"
        self.drop_database(fresh)
        self.make_database(fresh)
        self._client("pg_restore", "--no-owner", "--exit-on-error", "--single-transaction", "-d", fresh, str(file))
        self.drop_database(name)
        self._client("psql", "-d", "postgres", "-qc", f"alter database {fresh} rename to {name}")

    def running(self) -> bool:
        """Whether a living process holds the data folder."""
        told = subprocess.run(
            [*self._prefix, str(BIN / "pg_ctl"), "-D", str(self.data), "status"], capture_output=True, cwd="/"
        )
        return told.returncode == 0

    @contextmanager
    def reached(self) -> Iterator[bool]:
        """The cluster running, whoever started it; else for as long as this lasts. Gives whether it ran before."""
        ran = self.running()
        if ran:
            self.port = int((self.home / "database-port").read_text())
        else:
            self.create()
            self.start()
        try:
            yield ran
        finally:
            self.stop()  # only what was started here

    def stop(self) -> None:
        if self.process and self.process.poll() is None:
            subprocess.run(
                [*self._prefix, str(BIN / "pg_ctl"), "-D", str(self.data), "-m", "fast", "-w", "-t", "30", "stop"],
                capture_output=True, cwd="/",
            )  # fmt: skip
            self.process.wait(timeout=30)
