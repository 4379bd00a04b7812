"""Under Hood's core: what an amplifier delivers in a vehicle and what that asks of the electrical system.

Pure Python on numpy and scipy. SI units inside; a name carries its unit when it is not obvious.
"""
