"""Switches and relays of the job: put into a wire, two readings on one dial, what each carries."""
