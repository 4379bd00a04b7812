"""How well the tests hold: small faults made on purpose, one at a time, and how many of them a test notices."""
