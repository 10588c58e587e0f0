"""Cenote's computation: arrays in, arrays out. Knows no screen, no user and no database."""
