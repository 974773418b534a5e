"""Views of levelling: routes and serializers."""
