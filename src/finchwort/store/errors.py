"""What can go wrong with a record."""


class StoreError(Exception):
    """Base; its text is a sentence for the person."""


class NotFoundError(StoreError):
    """There is no such record, or it was deleted."""


class StaleError(StoreError):
    """The record was changed elsewhere since it was read."""


class ConflictError(StoreError):
    """The request does not fit the state of the record."""


class ReadFirstError(ConflictError):
    """The machine must be asked first what stands in it."""


class TypeFirstError(ConflictError):
    """The machine cannot be asked what stands in it: the person reads it on its screen."""


class KeyTakenError(ConflictError):
    """The key of a request stands for something else, or for what was deleted since."""


class NotAllowedError(StoreError):
    """The device's role does not have what the request needs."""
