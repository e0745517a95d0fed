#!/usr/bin/env python
"""Django's command line; bin/start and bin/test set the environment it needs."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ondata.settings")
    execute_from_command_line(sys.argv)
