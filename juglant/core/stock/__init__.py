"""What is known of many sounds, and which of them fits."""
