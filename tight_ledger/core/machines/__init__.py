"""A machine, its meters, where on it a joint sits, its VIN."""
