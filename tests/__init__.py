"""Tests: the core, the site and the browser."""

from hypothesis import HealthCheck, settings

# A slow machine is no fault of what is tested.
settings.register_profile("gelvet", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("gelvet")
