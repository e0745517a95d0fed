"""What the bench leaves to the background worker."""

from django.http import HttpRequest
from procrastinate.contrib.django import app

from bench.example import Example, prepare
from bench.learning import BodyLearning
from kit.models import Body
from pages import background
from pages.background import Waiting

FIRST_S, EACH_S = 2.0, 0.2  # that learning takes, and each run more


def wait_for(request: HttpRequest, learning: BodyLearning) -> Waiting:
    """Has the report worked out while the page waits for it."""
    return background.wait_for_job(
        request, learn, learning.key, _about_s(learning),
        account=request.user.pk, body=learning.body.pk,
    )  # fmt: skip


def wait_for_example(request: HttpRequest, learning: BodyLearning) -> Waiting:
    """Has the example worked out, if nobody has asked for it yet."""
    return background.wait_for_job(request, learn_example, learning.key, _about_s(learning))


def _about_s(learning: BodyLearning) -> float:
    return FIRST_S + EACH_S * len(learning.runs)


@app.task(name="learn")
def learn(account: int, body: int) -> None:
    """Learns a body from the runs of an account, while anybody waits for it."""
    visitor = background.visitor_numbered(account)
    found = Body.objects.visible_to(visitor).filter(pk=body).first() if visitor else None
    if visitor and found:
        learning = BodyLearning.of(found, visitor)
        with background.told_where_it_fails(learning.key):
            learning.work_out(lambda: background.is_waited_for(learning.key))


@app.task(name="learn-example")
def learn_example() -> None:
    """Learns what the example of the Bench teaches."""
    if found := Example.of_sample_kit():
        with background.told_where_it_fails(found.learning.key):
            prepare()
