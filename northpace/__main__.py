import sys

from northpace.cli import main

sys.exit(main())
