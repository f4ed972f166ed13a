"""``python -m omakase``."""

import sys

from omakase.cli import main

sys.exit(main())
