"""The measuring core: arrays and frozen values in, frozen values out. It imports nothing of Django."""
