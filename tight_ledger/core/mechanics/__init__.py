"""The mechanics of a bolted joint: friction, stress, stiffness, yield, settling; an estimate of the torque."""
