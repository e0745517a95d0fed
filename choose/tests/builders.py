"""What tests of choices share."""

from choose.evaluating import kept_choice
from pages.background import results


def forget_results() -> None:
    """Forgets all that was evaluated, in the cache and in this process."""
    results.clear()
    kept_choice.cache_clear()
