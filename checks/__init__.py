"""Long checks of the checks themselves and of the API; none is part of `make test`."""
