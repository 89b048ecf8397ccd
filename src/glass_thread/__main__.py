"""``python -m glass_thread``."""

from .cli.main import main

raise SystemExit(main())
