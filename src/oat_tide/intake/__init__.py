"""From a file to sales lines, and from lines to a panel of period series."""

from oat_tide.intake.pace.memory import keep_freed

keep_freed()
