"""What all families of findings share: the record, places and spans, filters, acceptance."""
