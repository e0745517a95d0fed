"""`python -m engine predict FILE|-`: a scenario file in, its result on standard output.

Exit 0 with one line of JSON; exit 2 with one sentence per fault on standard error.
"""

import argparse
import sys
from pathlib import Path

from engine import InvalidScenario, simulate
from engine.scenario_file import WHOLE_FILE, read_scenario, write_result

BAD_INPUT = 2
MOST_BYTES = 1_000_000  # of a scenario file: a thousand times what one needs


def main() -> int:
    parser = argparse.ArgumentParser(prog="python -m engine", description="The burst model.")
    commands = parser.add_subparsers(dest="command", required=True)
    predict = commands.add_parser("predict", help="predict one hold from a scenario file")
    predict.add_argument("file", help="a scenario file (JSON), or - for standard input")
    arguments = parser.parse_args()
    try:
        print(write_result(simulate(read_scenario(_text_of(arguments.file)))))
    except InvalidScenario as error:
        print(*error.sentences(), sep="\n", file=sys.stderr)
        return BAD_INPUT
    except OSError as error:
        print(f"{arguments.file} can't be read: {error.strerror}.", file=sys.stderr)
        return BAD_INPUT
    except UnicodeDecodeError:
        print(f"{arguments.file} is not text in UTF-8.", file=sys.stderr)
        return BAD_INPUT
    return 0


def _text_of(file: str) -> str:
    with sys.stdin.buffer if file == "-" else Path(file).open("rb") as source:
        content = source.read(MOST_BYTES + 1)
    if len(content) > MOST_BYTES:
        raise InvalidScenario({WHOLE_FILE: f"must not be larger than {MOST_BYTES:,} bytes"})
    return content.decode("utf-8-sig")


if __name__ == "__main__":
    sys.exit(main())
