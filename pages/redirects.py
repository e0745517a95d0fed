"""Back to where a visitor came from."""

from django.http import HttpResponseRedirect
from django.utils.http import url_has_allowed_host_and_scheme


def back_to(wanted: str, otherwise: str) -> HttpResponseRedirect:
    """A redirect to `wanted`, if that is a path of this site; else to the path `otherwise`."""
    ours = wanted.startswith("/") and url_has_allowed_host_and_scheme(wanted, allowed_hosts=None)
    return HttpResponseRedirect(wanted if ours else otherwise)
