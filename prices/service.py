"""Asking a price service for its list: not for long, not for much, and again if it was busy."""

import asyncio
import json
from collections.abc import Sequence
from http import HTTPStatus
from typing import Any

import httpx

from prices.lists import MOST_BYTES, BadList, Usual, read_rows
from prices.models import Offer

CONNECT_S, READ_S = 2.0, 3.0
ALL_IN_ALL_S = 8.0  # whatever the service does, retries included
TRIES = 3
REST_S = 0.2  # before it is asked again, whatever it says itself
BUSY = (HTTPStatus.BAD_GATEWAY, HTTPStatus.SERVICE_UNAVAILABLE, HTTPStatus.GATEWAY_TIMEOUT)


class ServiceFailed(Exception):
    """The service gave no list; says why in a sentence."""


def fetch(url: str, usual: Usual) -> list[Offer]:
    """The list that the service at `url` has today. Raises :class:`ServiceFailed`."""
    try:
        answer = json.loads(asyncio.run(_body(url)))
    except (ValueError, RecursionError):
        raise ServiceFailed("The price service answers with what is no price list.") from None
    return offers_in(answer, usual)


def offers_in(answer: Any, usual: Usual) -> list[Offer]:
    """The list that a service answered with. Raises :class:`ServiceFailed`."""
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


async def _body(url: str) -> bytes:
    try:
        async with asyncio.timeout(ALL_IN_ALL_S):
            return await _asked(url)
    except TimeoutError:
        raise ServiceFailed(
            f"The price service takes longer than {ALL_IN_ALL_S:g} s; the prices of before still "
            "hold."
        ) from None
    except (httpx.HTTPError, httpx.InvalidURL, OSError) as error:
        raise ServiceFailed(
            "The price service does not answer; the prices of before still hold. Try again later."
        ) from error


async def _asked(url: str) -> bytes:
    timeout = httpx.Timeout(READ_S, connect=CONNECT_S)
    transport = httpx.AsyncHTTPTransport(retries=TRIES - 1)  # of the call itself
    async with httpx.AsyncClient(timeout=timeout, transport=transport, trust_env=False) as client:
        for tries_left in reversed(range(TRIES)):
            async with client.stream("GET", url) as response:
                if response.status_code == HTTPStatus.OK:
                    return await _read(response)
                if response.status_code not in BUSY or not tries_left:
                    raise ServiceFailed(
                        f"The price service answers with an error ({response.status_code}); its "
                        "prices of before still hold."
                    )
            await asyncio.sleep(REST_S)
    raise AssertionError("the last try returns or raises")


async def _read(response: httpx.Response) -> bytes:
    body = b""
    async for chunk in response.aiter_bytes():
        body += chunk
        if len(body) > MOST_BYTES:
            raise ServiceFailed(
                "The price service sends more than 2 MB, which no price list needs."
            )
    return body
