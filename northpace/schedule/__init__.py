"""Orders on machines: which bed is laid when and where, what can be promised, and what it costs."""
