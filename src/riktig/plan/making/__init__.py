"""What the shop makes: bundles of wires, lots of one length, marker settings, reels, the door loom, all that is stuck on."""
