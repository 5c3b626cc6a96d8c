"""From a file to a closed solid standing on the bed: load, mend, place, measure."""
