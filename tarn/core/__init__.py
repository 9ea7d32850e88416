"""The rules and computations of the job: no Django, no network, no clock of its own."""
