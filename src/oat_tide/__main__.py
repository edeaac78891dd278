"""python -m oat_tide."""

import sys

from oat_tide.cli import main

sys.exit(main())
