"""Where a display goes: does it fit its hole and depth, is it seen past the rim, can it be read, does it reflect?"""
