"""Behind nginx with TLS, as docs/security.md has it: every device is paired, cookies are for TLS alone."""

import re
import ssl
import subprocess
import sys
import urllib.error
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path

import pytest

from tests.support.serving import answers
from tests.support.waiting import until
from tools.browser import free_port

DOCS = Path(__file__).parents[1] / "docs" / "security.md"
NGINX = Path("/usr/sbin/nginx")


@pytest.fixture
def site(tmp_path):
    """The address of the pages through the proxy, what to trust, and the database."""
    inner, outer, database = free_port(), free_port(), tmp_path / "club.db"
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes", "-days", "2",
         "-subj", "/CN=localhost", "-addext", "subjectAltName=DNS:localhost",
         "-keyout", tmp_path / "workshop.key", "-out", tmp_path / "workshop.pem"],
        check=True, capture_output=True,
    )  # fmt: skip
    told = re.search(r"```nginx\n(.*?)```", DOCS.read_text(), re.S)[1]
    told = (
        told.replace("443", f"127.0.0.1:{outer}").replace("8765", str(inner)).replace("workshop.example", "localhost")
    )
    told = told.replace("/etc/ssl/", f"{tmp_path}/")
    conf = tmp_path / "nginx.conf"
    temp = "".join(
        f"{kind}_temp_path {tmp_path}/{kind};" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    conf.write_text(
        f"daemon off; pid {tmp_path}/nginx.pid; error_log {tmp_path}/error.log; events {{}}\n"
        f"http {{ access_log off; {temp}\n{told}}}\n"
    )
    command = [sys.executable, "-m", "isostasis", "serve", "--db", str(database), "--port", str(inner), "--proxied",
               "--name", f"localhost:{outer}"]  # fmt: skip
    running = [
        subprocess.Popen(command, stdout=subprocess.DEVNULL),
        subprocess.Popen([NGINX, "-p", str(tmp_path), "-c", str(conf), "-e", str(tmp_path / "error.log")]),
    ]
    until(lambda: answers(inner) and answers(outer))
    yield f"https://localhost:{outer}", ssl.create_default_context(cafile=str(tmp_path / "workshop.pem")), database
    for one in running:
        one.terminate()
        one.wait(60)


@pytest.mark.skipif(not NGINX.exists(), reason="nginx is not there: `make test` installs it")
def test_through_a_proxy_with_tls(site):
    url, trusted, database = site
    jar = CookieJar()
    browser = urllib.request.build_opener(
        urllib.request.HTTPSHandler(context=trusted), urllib.request.HTTPCookieProcessor(jar)
    )
    page = browser.open(url, timeout=60)
    assert page.url == f"{url}/pair"  # this machine too: through the proxy nobody is known
    assert jar and all(cookie.secure for cookie in jar)
    told = subprocess.run(
        [sys.executable, "-m", "isostasis", "pair", "--db", str(database), "--role", "all", "--url", url],
        check=True, capture_output=True, text=True,
    ).stdout  # fmt: skip
    code = "".join(re.search(r"write (\d{3}) (\d{3})", told).groups())
    token = re.search(r'name="csrf_token" value="([^"]+)"', page.read().decode())[1]
    sent = urllib.parse.urlencode({"csrf_token": token, "code": code, "name": "Laptop"}).encode()
    for origin, status in (("https://evil.example", 400), (url, 200)):
        asked = urllib.request.Request(f"{url}/pair", sent, {"Origin": origin, "Referer": f"{url}/pair"})
        try:
            assert browser.open(asked, timeout=60).status == status
        except urllib.error.HTTPError as error:
            assert error.code == status
    assert browser.open(f"{url}/devices", timeout=60).url == f"{url}/devices"
