"""Back to where a visitor came from."""

from django.http import HttpResponseRedirect
from django.utils.http import url_has_allowed_host_and_scheme


def own_path(wanted: str) -> str:
    """`wanted`, if it is a path of this site; else nothing."""
    ours = wanted.startswith("/") and url_has_allowed_host_and_scheme(wanted, allowed_hosts=None)
    return wanted if ours else ""


def back_to(wanted: str, otherwise: str) -> HttpResponseRedirect:
    """A redirect to `wanted`, if that is a path of this site; else to the path `otherwise`."""
    return HttpResponseRedirect(own_path(wanted) or otherwise)
