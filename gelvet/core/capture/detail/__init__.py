"""What a device does to fine detail and fine colour: sharpening, noise, colours stored in steps."""
