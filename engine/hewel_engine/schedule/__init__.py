"""The farm's week: plates on machines, and the hands that they need."""
