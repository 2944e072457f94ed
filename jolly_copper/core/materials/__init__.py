"""Copper, rail, joints and insulation: tables with source and certainty.

Certainty: A sure (follows from a formula, or used daily); B fairly sure; C an estimate, to be measured or confirmed.
Every constant here is listed in docs/formulas.md.
"""
