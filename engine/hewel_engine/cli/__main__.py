from hewel_engine.cli.main import main

raise SystemExit(main())
