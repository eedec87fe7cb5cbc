"""Runs the command line: python -m hydrarch."""

import sys

from hydrarch.cli import main

sys.exit(main())
