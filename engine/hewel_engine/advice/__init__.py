"""What would fix it: joins findings, edits and reckonings into proposals."""
