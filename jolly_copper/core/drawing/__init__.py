"""Acts of drawing: each takes a layout and answers the change it makes, as a JSON Patch."""
