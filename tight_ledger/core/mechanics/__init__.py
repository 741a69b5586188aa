"""The mechanics of a bolted joint: an estimate of the torque from thread, class and friction. Off the run path."""
