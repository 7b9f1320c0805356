"""A PostgreSQL server of one's own for the tests, in a folder that goes with them."""

import glob
import os
import pwd
import shutil
import subprocess
from itertools import count
from pathlib import Path

import psycopg
from sqlalchemy import make_url

HOMES = (*sorted(glob.glob("/usr/lib/postgresql/*/bin"), reverse=True), os.path.dirname(shutil.which("initdb") or ""))


class Server:
    """Started in `folder`, on a socket there alone; gives addresses of fresh databases."""

    def __init__(self, folder: Path) -> None:
        self.home = next((home for home in HOMES if home and Path(home, "postgres").exists()), None)
        assert self.home, "PostgreSQL is missing: `make test` installs it from Debian's packages"
        self.folder = folder
        self.numbers = count(1)
        self.user = "postgres" if os.getuid() == 0 else pwd.getpwuid(os.getuid()).pw_name  # it does not run as root
        if os.getuid() == 0:
            shutil.chown(folder, self.user)
            for above in folder.parents:
                if above.stat().st_uid == 0 and above not in (Path("/"), Path("/tmp")):
                    above.chmod(above.stat().st_mode | 0o011)
        data = folder / "data"
        self._run("initdb", "-D", data, "-A", "trust", "-N", "-U", "club", "--locale", "C", "-E", "UTF8")
        self.process = subprocess.Popen(
            [f"{self.home}/postgres", "-D", data, "-k", folder, "-h", "", "-F", "-c", "max_connections=200"],
            user=self.user, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self._run("pg_ctl", "-D", data, "-w", "-t", "300", "status", patient=True)

    def _run(self, name: str, *words: object, patient: bool = False) -> None:
        while True:
            done = subprocess.run(
                [f"{self.home}/{name}", *map(str, words)], user=self.user, capture_output=True, text=True, check=False
            )
            if not done.returncode or not patient:
                assert not done.returncode, done.stderr
                return

    def address(self) -> str:
        """Of a database that nobody has used yet."""
        name = f"t{next(self.numbers)}"
        made = [f"{self.home}/createdb", "-h", str(self.folder), "-U", "club", "-T", "template0", name]
        while subprocess.run(made, capture_output=True, check=False).returncode:  # until it takes connections
            assert self.process.poll() is None
        return f"postgresql+psycopg://club@/{name}?host={self.folder}"

    def keep(self, address: str) -> None:
        """Keep a database that nobody uses as it is now, for `bring_back`."""
        name = make_url(address).database
        with self._master() as master:
            master.execute(f"CREATE DATABASE {name}_kept TEMPLATE {name}")

    def bring_back(self, address: str) -> None:
        """Make a database what it was when it was kept, whoever uses it."""
        name = make_url(address).database
        with self._master() as master:
            master.execute(f"DROP DATABASE {name} WITH (FORCE)")
            master.execute(f"CREATE DATABASE {name} TEMPLATE {name}_kept")

    def _master(self) -> psycopg.Connection:
        return psycopg.connect(f"user=club dbname=postgres host={self.folder}", autocommit=True)

    def close(self) -> None:
        """Stop it."""
        self.process.terminate()
        self.process.wait(300)
