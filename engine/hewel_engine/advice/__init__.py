"""What would fix it: joins findings, edits and calculations into proposals."""
