"""From the input's volts or ohms to the number on the face."""
