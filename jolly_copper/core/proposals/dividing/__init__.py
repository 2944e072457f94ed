"""Dividing a railroad into power districts: the stretches it can be made of, the choice, and the change that makes
it."""
