"""`python -m engine predict [--ranges] FILE|-`: a scenario file in, its result on standard output.

`python -m engine learn FILE|-`: a body and its runs in, its hidden figures and predictions out.

`python -m engine replay [--ranges] FILE|-`: a day's pictures or presses in, what was, and what
would have been on other set-ups, out.

`python -m engine day FILE|-`: a plan of a day in, what becomes of its frames, cards and copying,
with 80 % ranges, out.

Exit 0 with one line of JSON; exit 2 with one sentence per fault on standard error.
"""

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from engine.burst.simulate import simulate
from engine.files.scenario_file import range_values, read_with_sources, result_values
from engine.quantities import InvalidValues

BAD_INPUT = 2
MOST_BYTES = 1_000_000  # of a file: a hundred times what one needs
MOST_BYTES_OF_DAY = 3_000_000  # 20,000 pictures need half of it


def main() -> int:
    parser = argparse.ArgumentParser(prog="python -m engine", description="The burst model.")
    commands = parser.add_subparsers(dest="command", required=True)
    predict = commands.add_parser("predict", help="predict one hold from a scenario file")
    predict.add_argument(
        "--ranges", action="store_true", help="add the 80 %% ranges that follow from its sources"
    )
    predict.add_argument("file", help="a scenario file (JSON), or - for standard input")
    learn = commands.add_parser("learn", help="learn a body's hidden figures from runs")
    learn.add_argument("file", help="a learn file (JSON), or - for standard input")
    replayed = commands.add_parser("replay", help="replay a day on other set-ups")
    replayed.add_argument(
        "--ranges", action="store_true", help="add the 80 %% ranges that follow from the sources"
    )
    replayed.add_argument("file", help="a replay file (JSON), or - for standard input")
    day = commands.add_parser("day", help="simulate a plan of a day")
    day.add_argument("file", help="a day file (JSON), or - for standard input")
    arguments = parser.parse_args()
    answers: dict[str, Callable[[str], dict[str, Any]]] = {
        "predict": lambda text: _predicted(text, arguments.ranges),
        "learn": _learnt,
        "replay": lambda text: _replayed(text, arguments.ranges),
        "day": _planned,
    }
    try:
        most_bytes = MOST_BYTES_OF_DAY if arguments.command == "replay" else MOST_BYTES
        text = _text_of(arguments.file, most_bytes)
        print(json.dumps(answers[arguments.command](text)))
    except InvalidValues as error:
        print(*error.sentences(), sep="\n", file=sys.stderr)
        return BAD_INPUT
    except OSError as error:
        print(f"{arguments.file} can't be read: {error.strerror}.", file=sys.stderr)
        return BAD_INPUT
    except UnicodeDecodeError:
        print(f"{arguments.file} is not text in UTF-8.", file=sys.stderr)
        return BAD_INPUT
    return 0


def _predicted(text: str, ranges: bool) -> dict[str, Any]:
    scenario, sources = read_with_sources(text)
    answer = result_values(simulate(scenario))
    return answer | ({"ranges": range_values(scenario, sources)} if ranges else {})


def _learnt(text: str) -> dict[str, Any]:
    # Here because what it needs takes a second to import.
    from engine.files.learn_file import learnt_values, read_learn_file

    return learnt_values(read_learn_file(text))


def _replayed(text: str, ranges: bool) -> dict[str, Any]:
    # Here because what it needs takes a second to import.
    from engine.files.replay_file import read_replay_file, replayed_values

    return replayed_values(read_replay_file(text), ranges)


def _planned(text: str) -> dict[str, Any]:
    # Here because what it needs takes a second to import.
    from engine.files.day_file import planned_values, read_day_file

    return planned_values(read_day_file(text))


def _text_of(file: str, most_bytes: int) -> str:
    with sys.stdin.buffer if file == "-" else Path(file).open("rb") as source:
        content = source.read(most_bytes + 1)
    if len(content) > most_bytes:
        raise InvalidValues({"The file": f"must not be larger than {most_bytes:,} bytes"})
    return content.decode("utf-8-sig")


if __name__ == "__main__":
    sys.exit(main())
