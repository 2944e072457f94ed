"""Facts told to people: figures with their units, names and sentences, as frozen shapes.

Between core and API: the page, the phone, the command line and the book's lists all say the same, since it is said
here. Nothing is decided here and nothing is asked; a shape is made of facts, and of nothing else.
"""
