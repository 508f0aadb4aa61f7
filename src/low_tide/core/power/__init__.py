"""The speaker side of a rig: what each amp sees and who takes how much, as it stands and at worst."""
