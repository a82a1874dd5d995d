"""`python -m sunglaze` is the command `sunglaze`."""

from sunglaze.cli import run

run()
