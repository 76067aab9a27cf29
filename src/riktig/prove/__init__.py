"""What proves a panel: the steps of its test, the faults that each reveals, their order, and the way to a fault."""
