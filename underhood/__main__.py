"""`python -m underhood`."""

from underhood.cli.main import main

raise SystemExit(main())
