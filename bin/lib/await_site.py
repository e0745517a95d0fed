"""Waits until a site answers: await_site.py NOTE PID, its port in the file NOTE."""

import sys
import time
from pathlib import Path
from urllib.request import urlopen

PATIENCE_S, LOOK_S = 180, 0.05  # a busy machine starts slowly

note, process = Path(sys.argv[1]), Path("/proc") / sys.argv[2]
until = time.monotonic() + PATIENCE_S
while process.exists() and time.monotonic() < until:
    try:
        urlopen(f"http://127.0.0.1:{note.read_text()}/", timeout=PATIENCE_S)
        sys.exit()
    except (OSError, ValueError):  # not yet: no port, or nobody there
        time.sleep(LOOK_S)
if process.exists():
    print(f"It has not answered within {PATIENCE_S} s.", file=sys.stderr)
sys.exit(1)
