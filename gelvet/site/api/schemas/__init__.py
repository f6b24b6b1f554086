"""What goes over the wire, one file a noun."""

from pydantic import ConfigDict

# What is sent always holds every field, though it may be left out when it is received.
ALL_THERE = ConfigDict(json_schema_serialization_defaults_required=True)
