"""Goes to the verb; a card is answered without loading what computes parts."""

import sys

if sys.argv[1:2] == ["reckon"]:
    from hewel_engine.cli.reckon import main as reckon

    raise SystemExit(reckon(sys.argv[2:]))

from hewel_engine.cli.main import main

raise SystemExit(main())
