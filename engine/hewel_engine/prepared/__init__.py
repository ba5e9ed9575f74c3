"""Files that were prepared for a machine: plain moves and extrusion, whatever program wrote them."""
