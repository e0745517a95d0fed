"""Takes a port and becomes a web server that is given its socket: nobody can come in between.

listen.py PORT NOTE COMMAND...: the port is written to the file NOTE; without one ("") it is the
first free one from 8000 on.
"""

import os
import socket
import sys
from pathlib import Path

wanted, note, *command = sys.argv[1:]
for port in [int(wanted)] if wanted else range(8000, 9000):
    listening = socket.socket()
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind(("127.0.0.1", port))
        listening.listen(1024)
    except OSError:
        listening.close()
        continue
    listening.set_inheritable(True)
    Path(note).write_text(str(port))
    os.execv(command[0], [*command, "--bind", f"fd://{listening.fileno()}"])  # noqa: S606
sys.exit(f"Port {wanted or 'after port from 8000'} is taken.")
