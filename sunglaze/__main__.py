"""The command `sunglaze`, also as `python -m sunglaze`."""

import sys


def run() -> None:
    """Entry of the command. Ctrl+C ends it without a traceback, also while its parts are being loaded."""
    try:
        from sunglaze.cli import run as command

        command()
    except KeyboardInterrupt:
        sys.exit(130)


if __name__ == "__main__":
    run()
