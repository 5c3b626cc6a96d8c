"""The sample workshop, Tern Point Instruments: made up, shapes and all."""
