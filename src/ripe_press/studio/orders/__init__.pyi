from .orders import OrderBook as OrderBook
from .views import OrderView as OrderView
