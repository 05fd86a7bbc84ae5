"""The parts of the open plan document, one class for each thing of the core, with units in every name."""
