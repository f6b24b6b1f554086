"""The public list of pigment codes: what each is made of, how it usually behaves, and what to beware of."""
