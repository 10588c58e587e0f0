"""Spaced points on surfaces: thrown, held against each other, pushed apart, filled up, ordered. Knows no site."""
