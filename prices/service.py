"""Asking a price service for its list: not for long, not for much, and again if it was busy."""

import json
import time
from collections.abc import Sequence
from typing import Any

import urllib3
from urllib3.exceptions import HTTPError
from urllib3.util import Retry, Timeout

from prices.lists import MOST_BYTES, BadList, Usual, read_rows
from prices.models import Offer

CONNECT_S, READ_S = 2.0, 3.0
ALL_IN_ALL_S = 8.0  # however slowly it drips
TRIES = 3
CHUNK_BYTES = 65_536

# One pool for all requests: connections are kept, and it is safe among threads.
_POOL = urllib3.PoolManager(
    timeout=Timeout(connect=CONNECT_S, read=READ_S),
    retries=Retry(
        total=TRIES - 1,
        redirect=0,
        backoff_factor=0.2,
        status_forcelist=(502, 503, 504),
        raise_on_status=False,
    ),
)


class ServiceFailed(Exception):
    """The service gave no list; says why in a sentence."""


def fetch(url: str, usual: Usual) -> list[Offer]:
    """The list that the service at `url` has today. Raises :class:`ServiceFailed`."""
    try:
        answer = json.loads(_body(url))
    except (ValueError, RecursionError):
        raise ServiceFailed("The price service answers with what is no price list.") from None
    try:
        return read_rows(_rows(answer), usual)
    except BadList as error:
        faults = " ".join(error.faults[:3])
        raise ServiceFailed(f"The list of the price service has faults: {faults}") from error


def _rows(answer: Any) -> Sequence[tuple[str, dict[str, Any]]]:
    prices = answer.get("prices") if isinstance(answer, dict) else None
    if not (isinstance(prices, list) and all(isinstance(row, dict) for row in prices)):
        raise ServiceFailed("The price service answers with what is no price list.")
    of_list = {"shop": answer.get("shop"), "on": answer.get("on")}
    return [(f"Entry {number}", of_list | row) for number, row in enumerate(prices, start=1)]


def _body(url: str) -> bytes:
    until = time.monotonic() + ALL_IN_ALL_S
    try:
        response = _POOL.request("GET", url, preload_content=False)
        try:
            if response.status != 200:
                raise ServiceFailed(
                    f"The price service answers with an error ({response.status}); its prices of "
                    "before still hold."
                )
            return _read(response, until)
        finally:
            response.close()
    except (HTTPError, OSError) as error:
        raise ServiceFailed(
            "The price service does not answer; the prices of before still hold. Try again later."
        ) from error


def _read(response: urllib3.BaseHTTPResponse, until: float) -> bytes:
    body = b""
    while chunk := response.read1(CHUNK_BYTES):
        body += chunk
        if len(body) > MOST_BYTES:
            raise ServiceFailed(
                "The price service sends more than 2 MB, which no price list needs."
            )
        if time.monotonic() > until:
            raise ServiceFailed(
                f"The price service takes longer than {ALL_IN_ALL_S:g} s; the prices of before "
                "still hold."
            )
    return body
