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


def _remove(folder: Path) -> None:
    """Takes a folder away; what was killed while it wrote there may take a moment to end."""
    for _ in range(100):
        shutil.rmtree(folder, ignore_errors=True)
        if not folder.exists():
            return
        time.sleep(0.1)
    raise SystemExit(f"{folder} cannot be removed: something still writes there. End it, and start again.")


class Cluster:
    """As root it runs under Debian's ``postgres`` user, otherwise under the caller."""

    def __init__(self, home: Path):
        self.home, self.data = home, home / "postgresql"
        self.tables = home / "tables"
        """Says which version's tables the database has; missing where that is not known."""
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
        """Made under another name first: a cluster that stands at its own was made to the end."""
        if self.data.exists():
            return
        self.home.mkdir(parents=True, exist_ok=True)
        password = self.home / "database-password"
        password.touch(mode=0o600)
        password.write_text(os.urandom(18).hex() + "\n")
        made = self.data.with_name("postgresql-in-the-making")
        _remove(made)  # left by an attempt that was broken off
        made.mkdir(mode=0o700)
        if AS_ROOT:
            for folder in self.home.parents:  # every folder on the way must let the database's user through
                if folder.is_relative_to("/var/lib/hewel"):
                    folder.chmod(0o755)
            owner = pwd.getpwnam("postgres")
            for path in (made, password):
                os.chown(path, owner.pw_uid, owner.pw_gid)
        run(
            [*self._prefix, BIN / "initdb", "-D", made, "-U", "postgres", "-E", "UTF8", "--locale=C.UTF-8",
             "--auth=scram-sha-256", "--pwfile", password],
            cwd="/",
        )  # fmt: skip
        self._make_role(made, password.read_text().strip())
        made.rename(self.data)

    def _make_role(self, data: Path, password: str) -> None:
        """Hewel's own role, which may make databases and is no superuser. The superuser's password is thrown away:
        whoever needs that role comes by the files.
        """
        orders = (
            f"create role {self.user} login createdb password '{password}'",
            f"alter role postgres password '{os.urandom(18).hex()}'",
        )
        single = [*self._prefix, str(BIN / "postgres"), "--single", "-j", "-D", str(data), "postgres"]
        done = subprocess.run(
            single, input="".join(f"{order};\n\n" for order in orders), capture_output=True, text=True, cwd="/"
        )
        if done.returncode or "ERROR" in done.stderr:
            raise SystemExit(f"\nPostgreSQL did not make Hewel's role:\n{done.stderr}")

    def start(self) -> None:
        self._stop_leftover()
        self.port = free_port(self.home / "database-port", 54400)
        settings = {
            "port": self.port, "listen_addresses": self._listen(), "unix_socket_directories": "",
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

    def _listen(self) -> str:
        """Loopback; and where workers of other machines come from ``HEWEL_DATABASE_FROM`` (addresses with masks,
        separated by commas), all of this machine's.
        """
        others = [a.strip() for a in os.environ.get("HEWEL_DATABASE_FROM", "").split(",") if a.strip()]
        own = ["127.0.0.1/32", "::1/128"]
        rules = "".join(f"host all {self.user} {address} scram-sha-256\n" for address in [*own, *others])
        (self.data / "pg_hba.conf").write_text(f"# written by Hewel at every start\n{rules}")
        return "*" if others else "127.0.0.1"

    def _stop_leftover(self) -> None:
        """A cluster whose starter was killed goes on by itself; it is stopped before a new one starts."""
        if (self.data / "postmaster.pid").exists():
            subprocess.run(
                [*self._prefix, str(BIN / "pg_ctl"), "-D", str(self.data), "-m", "fast", "-w", "-t", "30", "stop"],
                capture_output=True, cwd="/",
            )  # fmt: skip

    def make_database(self, name: str = "hewel") -> bool:
        """Makes it where it is missing; whether it was."""
        env = {**os.environ, "PGPASSWORD": self._password()}
        base = ["-h", "127.0.0.1", "-p", str(self.port), "-U", self.user]
        listed = subprocess.run(
            [BIN / "psql", *base, "-d", "postgres", "-Atc", f"select 1 from pg_database where datname = '{name}'"],
            capture_output=True, text=True, env=env,
        )  # fmt: skip
        missing = listed.stdout.strip() != "1"
        if missing:
            run([BIN / "createdb", *base, name], env=env)
        return missing

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
        self.tables.unlink(missing_ok=True)
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
