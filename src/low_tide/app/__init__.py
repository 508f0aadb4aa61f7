"""What a person does with the program, in terms of core and store; no HTTP."""
