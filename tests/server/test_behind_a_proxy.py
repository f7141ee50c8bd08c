"""The web server as many machines have it: behind a proxy that speaks TLS."""

import http.client
import json
import ssl
import subprocess
import threading
import time
import urllib.error
import urllib.request
from http.cookiejar import CookieJar
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from types import SimpleNamespace

import pytest
from test_doors import GOOD, WITH_TLS
from working import of_this_test

PATIENCE = 600


def proxy_to(port: int, certificate: Path) -> ThreadingHTTPServer:
    """A proxy that ends TLS and hands everything on, as it is told to in the documents."""

    class Proxy(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.0"

        def hand_on(self) -> None:
            body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
            headers = {**self.headers, "X-Forwarded-Proto": "https", "Connection": "close"}
            behind = http.client.HTTPConnection("127.0.0.1", port, timeout=PATIENCE)
            behind.request(self.command, self.path, body, headers)
            answer = behind.getresponse()
            self.send_response_only(answer.status)
            for name, value in answer.getheaders():
                if name.lower() != "transfer-encoding":
                    self.send_header(name, value)
            self.end_headers()
            while chunk := answer.read1():
                self.wfile.write(chunk)
                self.wfile.flush()

        do_GET = do_POST = do_DELETE = hand_on

        def log_message(self, *args) -> None:
            """Say nothing."""

    server = ThreadingHTTPServer(("127.0.0.1", 0), Proxy)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(certificate)
    server.socket = context.wrap_socket(server.socket, server_side=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server


@pytest.fixture
def door(shop, tmp_path):
    """The address of a proxy, and of the web server behind it."""
    import run
    from provide import free_port

    certificate = tmp_path / "both.pem"
    command = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2"]
    command += ["-subj", "/CN=localhost", "-keyout", certificate, "-out", tmp_path / "c.pem"]
    subprocess.run(command, check=True, capture_output=True)
    certificate.write_text(certificate.read_text() + (tmp_path / "c.pem").read_text())
    port = free_port()
    proxy = proxy_to(port, certificate)
    address = f"https://localhost:{proxy.server_port}"
    env = of_this_test(**{**WITH_TLS, "IRONCAULK_HOSTS": "localhost", "IRONCAULK_ORIGINS": address})
    web = run.web(env, port)
    try:
        yield SimpleNamespace(address=address, port=port, web=web)
    finally:
        run.end(web)
        proxy.shutdown()
        proxy.server_close()


def straight(port: int) -> http.client.HTTPResponse:
    """Ask the web server itself, without TLS; waits until it answers."""
    end = time.monotonic() + PATIENCE
    while True:
        try:
            plain = http.client.HTTPConnection("localhost", port, timeout=PATIENCE)
            plain.request("GET", "/api/session")
            return plain.getresponse()
        except OSError:
            assert time.monotonic() < end, f"port {port} did not answer in {PATIENCE} s"
            time.sleep(0.1)


def test_all_goes_through_tls_and_nothing_without(shop, door, settings) -> None:
    # as the web server hashes, which is a process of its own
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.PBKDF2PasswordHasher"]
    shop.person.set_password(GOOD)
    shop.person.save()
    answer = straight(door.port)
    assert answer.status == 301
    assert answer.getheader("Location").startswith("https://")

    cookies = CookieJar()
    unchecked = ssl.create_default_context()
    unchecked.check_hostname, unchecked.verify_mode = False, ssl.CERT_NONE
    browser = urllib.request.build_opener(
        urllib.request.HTTPSHandler(context=unchecked),
        urllib.request.HTTPCookieProcessor(cookies),
    )

    def ask(path: str, body: dict | None = None, origin: str = door.address):
        token = next((c.value for c in cookies if c.name == "csrftoken"), "")
        headers = {"X-CSRFToken": token, "Content-Type": "application/json"}
        # as browsers do: where it comes from is told with what changes something, and over TLS
        headers |= {"Origin": origin, "Referer": f"{origin}/"}
        data = None if body is None else json.dumps(body).encode()
        return browser.open(
            urllib.request.Request(door.address + path, data, headers), timeout=PATIENCE
        )

    first = ask("/api/session")
    assert "max-age=31536000; includeSubDomains" in first.headers["Strict-Transport-Security"]
    assert ask("/api/session", {"username": "ane", "password": GOOD}).status == 200
    assert {c.name: c.secure for c in cookies} == {"csrftoken": True, "sessionid": True}
    order = {"customer": "Spar & Sail", "due": "2031-02-03T10:00:00Z"}
    assert ask("/api/orders", order).status == 201
    with pytest.raises(urllib.error.HTTPError, match="403"):
        ask("/api/orders", order, origin="https://elsewhere.example")
    # what changes is told through the proxy, too
    with ask("/api/events") as events:
        assert events.headers["Content-Type"] == "text/event-stream"
        assert events.readline() == b": listening\n"
