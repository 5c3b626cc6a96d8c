"""Where jobs may be sent: addresses of the networks that are allowed, and folders below the roots
that are.
"""

from __future__ import annotations

import hashlib
import hmac
import ipaddress
import socket
from pathlib import Path
from urllib.parse import urlsplit

from django.conf import settings

from northpace.errors import InputError
from service.workshop.models import Machine


def allowed(ip: str) -> bool:
    """Whether a printer may be at an IP address: of an allowed network, and never one that only
    means the neighbourhood of the service itself.
    """
    found = ipaddress.ip_address(ip.split("%")[0])
    if isinstance(found, ipaddress.IPv6Address) and found.ipv4_mapped is not None:
        found = found.ipv4_mapped
    if found.is_link_local or found.is_multicast or found.is_unspecified:
        return False
    if found.is_loopback:
        return settings.LOOPBACK_PRINTERS
    return any(found in ipaddress.ip_network(network) for network in settings.PRINTER_NETWORKS)


def check_address(address: str) -> str:
    """An address as it is kept. Raises `InputError` for what is none, cannot be found, or lies
    where no printer may be.
    """
    parts = urlsplit(address)
    try:
        port = parts.port
    except ValueError:
        port = -1
    if (
        parts.scheme not in ("http", "https")
        or not parts.hostname
        or port == -1
        or parts.query
        or parts.fragment
        or parts.username
    ):
        raise InputError(
            f"'{address}' is no address of a printer; write http://name:port", "connection"
        )
    try:
        found = {info[4][0] for info in socket.getaddrinfo(parts.hostname, port or 80)}
    except OSError:
        found = set()  # it may be off now; it is looked at again whenever it is spoken to
    if not all(allowed(str(ip)) for ip in found):
        raise InputError(
            f"'{address}' is not in a network that printers may be in "
            f"({', '.join(settings.PRINTER_NETWORKS)}); who runs the service can allow it "
            "(NORTHPACE_PRINTER_NETWORKS)",
            "connection",
        )
    return address.rstrip("/")


def check_folder(folder: str) -> str:
    """A folder as it is kept. Raises `InputError` where it is not there or not below a root."""
    if not folder.startswith("/") or not Path(folder).is_dir():
        raise InputError(
            f"'{folder}' is no folder on this machine; give its whole path", "connection"
        )
    real = Path(folder).resolve()
    if not any(real.is_relative_to(Path(root).resolve()) for root in settings.FOLDER_ROOTS):
        raise InputError(
            f"'{folder}' is not below {' or '.join(settings.FOLDER_ROOTS)}; who runs the service "
            "can allow it (NORTHPACE_FOLDER_ROOTS)",
            "connection",
        )
    return folder


def check_free(machine: Machine | None, connection: dict[str, str]) -> None:
    """Raises `InputError` where another machine is reached the same way, or the machine is at
    work and would be left behind.
    """
    way = {key: connection[key] for key in ("address", "folder") if key in connection}
    others = Machine.objects.exclude(pk=machine.pk if machine else 0)
    for key, value in way.items():
        if others.filter(**{f"connection__{key}": value}).exists():
            raise InputError(f"another machine is reached at {value} already", "connection")
    if machine is None or machine.connection == connection:
        return
    if machine.jobs.filter(state__in=("sending", "heating", "printing", "paused")).exists():
        raise InputError(
            f"{machine.name} is at work; change how it is reached when its job has ended",
            "connection",
        )


def key_of(machine: Machine) -> str:
    """What a machine's printer knows its owner by: the first key it hears is the only one it
    obeys. Made of the signing key, so that it is the same after a restore.
    """
    word = f"printer {machine.workshop_id} {machine.pk}".encode()
    return hmac.new(settings.SECRET_KEY.encode(), word, hashlib.sha256).hexdigest()
