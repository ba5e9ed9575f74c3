"""Hewel's computation: arrays in, arrays out. No Django, no database, no clock, no hidden randomness."""

ENGINE_VERSION = "0.8.1"
CONTRACT = 2
