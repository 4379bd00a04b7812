"""The real interface in a real browser, through Django's live server and test runner."""
