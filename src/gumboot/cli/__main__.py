"""Entry point of ``python -m gumboot.cli``."""

from gumboot.cli.main import main

raise SystemExit(main())
