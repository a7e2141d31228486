"""One notice on its way to another program: a CloudEvents 1.0 document over HTTP, signed as Standard Webhooks are.

The signature is the base64 of HMAC-SHA256, under the target's secret, over `id.timestamp.body`; a secret is `whsec_` and the
key in base64.
"""

import base64
import binascii
import hmac
import ipaddress
import json
import secrets
import socket
from datetime import UTC, datetime
from typing import Any, NamedTuple

import httpx2
from standardwebhooks.webhooks import EmptyWebhookSecretError, Webhook

from jostle.core.today import epoch
from jostle.exchange import Line, NoAnswer

# s: until the status of an answer is there
PATIENCE = 5.0
# Seconds after which it is tried again; after the last of them it is given up
BACK_OFF = (2.0, 10.0, 60.0, 300.0, 1800.0)
# How far a receiver's clock may be from ours (s)
SKEW = 300.0
LONGEST_URL = 2000
PREFIX = "whsec_"
# IPv6 that carries an IPv4 address: the one prefix for it that all may use (RFC 6052), and those of networks by themselves and of
# tunnels (RFC 8215, 3056, 4380, 4291); and IPv4 that is set apart for protocols (RFC 6890)
NAT64 = ipaddress.IPv6Network("64:ff9b::/96")
STANDS_FOR_OTHERS = [
    ipaddress.IPv6Network(net)
    for net in ("64:ff9b:1::/48", "2002::/16", "2001::/32", "::/96", "::ffff:0:0/96", "::ffff:0:0:0/96")
]
PROTOCOLS = ipaddress.IPv4Network("192.0.0.0/24")


class Unreachable(ValueError):
    """A target that nothing is sent to; the message says what would do."""


class Outcome(NamedTuple):
    done: bool
    said: str


def new_secret() -> str:
    return f"{PREFIX}{base64.b64encode(secrets.token_bytes(32)).decode()}"


def is_secret(secret: str) -> bool:
    """Whether something can be signed with it. One without the prefix, as they once were, is the key itself."""
    try:
        return bool(_hook(secret))
    except (binascii.Error, EmptyWebhookSecretError):
        return False


def signature(secret: str, number: str, timestamp: str, body: bytes) -> str:
    return _hook(secret).sign(number, datetime.fromtimestamp(int(timestamp), UTC), body.decode())


def _hook(secret: str) -> Webhook:
    return Webhook(secret if secret.startswith(PREFIX) else secret.encode())


def is_signed(secret: str, headers: Any, body: bytes, now: float) -> bool:
    """Whether a delivery is from who knows the secret, and of now."""
    number, timestamp = headers.get("webhook-id", ""), headers.get("webhook-timestamp", "")
    if not timestamp.isascii() or not timestamp.isdigit() or len(timestamp) > 12 or abs(now - int(timestamp)) > SKEW:
        return False
    try:
        wanted = signature(secret, number, timestamp, body).encode()
    except UnicodeDecodeError:
        return False
    told = headers.get("webhook-signature", "").encode()
    return any(hmac.compare_digest(wanted, one) for one in told.split(b" "))


def written(number: str, source: str, kind: str, subject: str, at: float, data: dict[str, Any]) -> bytes:
    """A notice as CloudEvents in the structured mode."""
    return json.dumps(
        {
            "specversion": "1.0",
            "id": number,
            "source": source,
            "type": f"jostle.notice.{kind}",
            "subject": subject,
            "time": datetime.fromtimestamp(at, UTC).isoformat(),
            "datacontenttype": "application/json",
            "data": data,
        },
        ensure_ascii=False,
    ).encode()


def checked(url: str) -> httpx2.URL:
    """An address that a target may have. Raises Unreachable."""
    try:
        read = httpx2.URL(url)
    except (httpx2.InvalidURL, TypeError):
        raise Unreachable("is no address; write one such as https://example.org/notices") from None
    if len(url) > LONGEST_URL or read.scheme not in ("http", "https") or not read.host:
        raise Unreachable("only http and https are sent to; write an address such as https://example.org/notices")
    if read.userinfo:
        raise Unreachable("names a user; leave that out, the signature says who sends")
    return read


def address_of(url: httpx2.URL, private: bool) -> str:
    """The address at which a host is reached now. Raises Unreachable where it is none of the world's and those are not allowed,
    ConnectionError where the name is not known."""
    try:
        found = {str(one[4][0]) for one in socket.getaddrinfo(url.host, url.port or 443, type=socket.SOCK_STREAM)}
    except (OSError, UnicodeError) as error:
        raise ConnectionError(f"{url.host} is not known: {getattr(error, 'strerror', error)}") from None
    for one in sorted(found):
        if not private and not of_the_world(one.partition("%")[0]):
            raise Unreachable(
                f"{url.host} is {one}, an address of this machine or its network; "
                "start the service with JOSTLE_PRIVATE_TARGETS=1 to allow those"
            )
    return min(found, key=lambda one: (":" in one, one))


def of_the_world(address: str) -> bool:
    """Whether an address is one that anybody may reach: none of this machine or its network, nor what stands for such a one."""
    read = ipaddress.ip_address(address)
    if isinstance(read, ipaddress.IPv6Address):
        if any(read in net for net in STANDS_FOR_OTHERS):
            return False
        if read in NAT64:
            return of_the_world(str(ipaddress.IPv4Address(int(read) & 0xFFFF_FFFF)))
    elif read in PROTOCOLS:
        return False
    return read.is_global and not read.is_multicast


def deliver(url: str, secret: str, number: str, body: bytes, private: bool) -> Outcome:
    """Send one notice, following no redirect, to the very address that was checked."""
    try:
        read = checked(url)
        address = address_of(read, private)
    except (Unreachable, ConnectionError) as error:
        return Outcome(False, str(error))
    timestamp = str(int(epoch()))
    headers = {
        "host": read.netloc.decode("ascii"),
        "content-type": "application/cloudevents+json",
        "user-agent": "jostle",
        "webhook-id": number,
        "webhook-timestamp": timestamp,
        "webhook-signature": signature(secret, number, timestamp, body),
    }
    line, there = Line("", PATIENCE), str(read.copy_with(host=address))
    try:
        status = line.status("POST", there, content=body, headers=headers, extensions={"sni_hostname": read.host})
    except (NoAnswer, httpx2.HTTPError, OSError, ValueError) as error:
        return Outcome(False, f"was not reached: {error}")
    finally:
        line.close()
    if httpx2.codes.is_redirect(status):
        return Outcome(False, f"answered {status}, to look elsewhere; name the address itself")
    return Outcome(httpx2.codes.is_success(status), f"answered {status}")
