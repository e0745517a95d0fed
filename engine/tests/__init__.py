from hypothesis import settings

# A first call loads compiled code, which no deadline for one example should hold against it.
settings.register_profile("engine", deadline=None)
settings.load_profile("engine")
