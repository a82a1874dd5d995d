"""Checks that one definition gives one picture on all targets. Needs Playwright and chromium; the application does not."""
