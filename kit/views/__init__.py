"""The screens of the kit."""
