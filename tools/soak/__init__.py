"""Attacks on the program: kills, nonsense, hostile files, many clients, strangers. `make soak` ends with a table.

Each attack is a function of its size, so that a short form of it runs among the tests.
"""
