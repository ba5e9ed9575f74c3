"""Setting up and running Hewel on one machine. Standard library only: it runs before anything is installed."""
