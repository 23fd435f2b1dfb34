import sys

from umber_knot.cli import main

sys.exit(main())
