"""Answers that are saved as files."""

from typing import TypeVar

from django.http import HttpResponseBase

_Response = TypeVar("_Response", bound=HttpResponseBase)


def as_file(response: _Response, name: str) -> _Response:
    """The response, to be saved under `name`."""
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
