"""x"""
LIFT_MODELS = ()
