"""Where to put reversing sections: the places that would do, the best choice among them, and the change it makes."""
