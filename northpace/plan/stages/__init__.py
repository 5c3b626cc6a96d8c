"""The stages of a plan, side by side with what they read: from the file to the G-code."""
