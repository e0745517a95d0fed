"""Back to where a visitor came from."""

from urllib.parse import urlsplit

from django.http import HttpRequest, HttpResponseRedirect
from django.utils.http import url_has_allowed_host_and_scheme


def own_path(wanted: str) -> str:
    """`wanted`, if it is a path of this site; else nothing."""
    ours = wanted.startswith("/") and url_has_allowed_host_and_scheme(wanted, allowed_hosts=None)
    return wanted if ours else ""


def came_from(request: HttpRequest) -> str:
    """The page of this site that the visitor was on, by its path and query; else nothing."""
    page = urlsplit(request.META.get("HTTP_REFERER", ""))
    if page.netloc != request.get_host():
        return ""
    return f"{page.path}?{page.query}" if page.query else page.path


def back_to(wanted: str, otherwise: str) -> HttpResponseRedirect:
    """A redirect to `wanted`, if that is a path of this site; else to the path `otherwise`."""
    return HttpResponseRedirect(own_path(wanted) or otherwise)
