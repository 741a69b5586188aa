"""Proof: the tree over the log of checkpoints, checkpoints as signed notes, and whether a card's file is what was sealed."""
