"""Tests see what a view gave its templates, whose engine doesn't tell by itself."""

from typing import Any, Self

from django.http import HttpRequest
from django.template.backends.jinja2 import Template
from django.test.runner import DiscoverRunner
from django.test.signals import template_rendered


class _Told(dict[str, Any]):
    """A context that is told before it is rendered, and has by then what processors add."""

    def __copy__(self) -> Self:
        return self


class Runner(DiscoverRunner):
    """Fills in `response.context`, as Django's runner does for its own templates alone."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        self._render = Template.render

        def render(
            template: Template,
            context: dict[str, Any] | None = None,
            request: HttpRequest | None = None,
        ) -> str:
            told = _Told(context or {})
            template_rendered.send(sender=template, template=template, context=told)
            return self._render(template, told, request)

        Template.render = render

    def teardown_test_environment(self, **kwargs: Any) -> None:
        Template.render = self._render
        super().teardown_test_environment(**kwargs)
