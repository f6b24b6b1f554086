"""What a layer of paint covers, leaves behind and adds (measurement.md 7 to 9)."""
