"""Job sheets on paper and as PDF, and links by which a customer reads one."""
