"""What the company has agreed with others, and what becomes of its assets."""

from tarn.apps.lifecycle.models.agreed import Contract, Feed, Order, OrderLine, Receipt
from tarn.apps.lifecycle.models.steps import HandOver, StepBook, StepTaken
from tarn.apps.lifecycle.models.support import SupportEnd

__all__ = ["Contract", "Feed", "HandOver", "Order", "OrderLine", "Receipt", "StepBook", "StepTaken", "SupportEnd"]
