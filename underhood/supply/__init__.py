"""The supply: chargers, batteries, capacitors, and the network they hold up."""
