"""What the bench leaves to the background worker."""

from django.contrib.auth import get_user_model
from django.http import HttpRequest
from procrastinate.contrib.django import app

from bench import example
from bench.learning import BodyLearning
from kit.models import Body
from pages import background


def wait_for(request: HttpRequest, learning: BodyLearning) -> None:
    """Has the report worked out while the page waits for it."""
    key = learning.key
    background.wait_for(key)
    background.begin(
        learn, key, f"bench:{background.visitor_of(request)}",
        account=request.user.pk, body=learning.body.pk,
    )  # fmt: skip


def wait_for_example(request: HttpRequest, learning: BodyLearning) -> None:
    """Has the example worked out, if nobody has asked for it yet."""
    background.begin(learn_example, learning.key, f"bench:{background.visitor_of(request)}")


@app.task(name="learn")
def learn(account: int, body: int) -> None:
    """Learns a body from the runs of an account, while anybody waits for it."""
    visitor = get_user_model().objects.filter(pk=account).first()
    found = Body.objects.visible_to(visitor).filter(pk=body).first() if visitor else None
    if visitor and found:
        learning = BodyLearning.of(found, visitor)
        learning.work_out(lambda: background.is_waited_for(learning.key))


@app.task(name="learn-example")
def learn_example() -> None:
    """Learns what the example of the Bench teaches."""
    example.prepare()
