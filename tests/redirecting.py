"""Real servers with a written map, on free loopback ports: each by its own package, the map as somebody would put it in."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path

from tests.servers import free_port, nginx, wait_for


@contextmanager
def _running(command: list[str], port: int, folder: Path, **env: str) -> Iterator[int]:
    with (folder / "log").open("wb") as log:
        process = subprocess.Popen(command, stdout=log, stderr=log, env=os.environ | env)
        try:
            try:
                wait_for(port, 60, process)
            except AssertionError:
                raise AssertionError((folder / "log").read_text("utf-8", "replace")[-2000:]) from None
            yield port
        finally:
            process.terminate()
            process.wait(20)


def _checked(command: list[str], **env: str) -> None:
    """The server's own test of its configuration."""
    done = subprocess.run(command, capture_output=True, text=True, env=os.environ | env)
    assert done.returncode == 0, (done.stdout + done.stderr)[-2000:]


def _readable(folder: Path) -> None:
    """A folder for tests, and those above it that are of tests as well, for a server that reads as another user."""
    for one in (folder, *folder.parents):
        if Path(tempfile.gettempdir()) in one.parents:
            one.chmod(one.stat().st_mode | 0o055)


@contextmanager
def with_nginx(maps: Path, folder: Path) -> Iterator[int]:
    server = f"large_client_header_buffers 4 32k; include {maps}/redirects.server.conf; location / {{ return 404; }}"
    with nginx(folder, server, f"include {maps}/redirects.http.conf;") as port:
        yield port


_APACHE = """ServerRoot "{folder}"
PidFile "{folder}/pid"
Listen 127.0.0.1:{port}
ServerName old.example.test
User www-data
Group www-data
LoadModule mpm_event_module /usr/lib/apache2/modules/mod_mpm_event.so
LoadModule authz_core_module /usr/lib/apache2/modules/mod_authz_core.so
LoadModule rewrite_module /usr/lib/apache2/modules/mod_rewrite.so
ErrorLog "{folder}/error.log"
DocumentRoot "{folder}/www"
LimitRequestLine 32768
<Directory "{folder}/www">
  AllowOverride FileInfo
  Options FollowSymLinks
</Directory>
{more}
"""


@contextmanager
def _apache(folder: Path, more: str) -> Iterator[int]:
    port = free_port()
    (folder / "www").mkdir(parents=True, exist_ok=True)
    _readable(folder)
    (folder / "conf").write_text(_APACHE.format(folder=folder, port=port, more=more), "utf-8")
    _checked(["/usr/sbin/apache2", "-f", f"{folder}/conf", "-t"])
    with _running(["/usr/sbin/apache2", "-f", f"{folder}/conf", "-DFOREGROUND"], port, folder):
        yield port


@contextmanager
def with_apache(maps: Path, folder: Path) -> Iterator[int]:
    conf = (maps / "redirects.apache.conf").read_text("utf-8", "surrogateescape")
    if "httxt2dbm" in conf:
        command = next(line for line in conf.split("\n") if "httxt2dbm" in line).partition("httxt2dbm")[2].split()
        subprocess.run(["httxt2dbm", *command], cwd=maps, check=True, capture_output=True)
    _readable(maps)
    with _apache(folder, f'Define REDIRECTS "{maps}"\nInclude "{maps}/redirects.apache.conf"') as port:
        yield port


@contextmanager
def with_htaccess(maps: Path, folder: Path) -> Iterator[int]:
    (folder / "www").mkdir(parents=True, exist_ok=True)
    shutil.copy(maps / ".htaccess", folder / "www" / ".htaccess")
    with _apache(folder, "") as port:
        yield port


@contextmanager
def with_caddy(maps: Path, folder: Path) -> Iterator[int]:
    port = free_port()
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "Caddyfile").write_text(
        f"{{\n\tadmin off\n\tauto_https off\n}}\nhttp://127.0.0.1:{port} {{\n\tbind 127.0.0.1\n"
        f"\timport {maps}/redirects.caddy\n\trespond 404\n}}\n"
    )
    home = {"XDG_DATA_HOME": f"{folder}/data", "XDG_CONFIG_HOME": f"{folder}/config", "HOME": str(folder)}
    _checked(["caddy", "validate", "--config", f"{folder}/Caddyfile", "--adapter", "caddyfile"], **home)
    run = ["caddy", "run", "--config", f"{folder}/Caddyfile", "--adapter", "caddyfile"]
    with _running(run, port, folder, **home):
        yield port


@contextmanager
def with_haproxy(maps: Path, folder: Path) -> Iterator[int]:
    port = free_port()
    folder.mkdir(parents=True, exist_ok=True)
    lines = (maps / "redirects.haproxy.cfg").read_text("utf-8", "surrogateescape")
    (folder / "conf").write_text(
        f"""global
  maxconn 256
  presetenv REDIRECTS {maps}
defaults
  mode http
  timeout client 5s
  timeout server 5s
  timeout connect 5s
frontend old
  bind 127.0.0.1:{port}
{lines}
  http-request return status 404 content-type text/plain string "Not found"
""",
        "utf-8",
        "surrogateescape",
    )
    _checked(["/usr/sbin/haproxy", "-c", "-f", f"{folder}/conf"])
    with _running(["/usr/sbin/haproxy", "-db", "-f", f"{folder}/conf"], port, folder):
        yield port


@contextmanager
def with_lighttpd(maps: Path, folder: Path) -> Iterator[int]:
    port = free_port()
    (folder / "www").mkdir(parents=True, exist_ok=True)
    (folder / "conf").write_text(
        f"""server.port = {port}
server.bind = "127.0.0.1"
server.document-root = "{folder}/www"
server.max-request-field-size = 32768
server.modules = ()
var.redirects = "{maps}"
include "{maps}/redirects.lighttpd.conf"
"""
    )
    _checked(["/usr/sbin/lighttpd", "-tt", "-f", f"{folder}/conf"])
    with _running(["/usr/sbin/lighttpd", "-D", "-f", f"{folder}/conf"], port, folder):
        yield port


REAL: dict[str, Callable[[Path, Path], AbstractContextManager[int]]] = {
    "nginx": with_nginx,
    "apache": with_apache,
    "htaccess": with_htaccess,
    "caddy": with_caddy,
    "haproxy": with_haproxy,
    "lighttpd": with_lighttpd,
}
