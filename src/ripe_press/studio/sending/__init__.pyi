from .attempt import asked_state as asked_state, failed_step as failed_step, transfer_file as transfer_file
from .carriers import Carrier as Carrier, carrier_of as carrier_of
from .carriers.carrier import RunningTransfer as RunningTransfer
from .drop_off_book import DropOffBook as DropOffBook, drop_off_of as drop_off_of
from .handing_over import handed_over as handed_over
from .outbox import Outbox as Outbox, TransferProgress as TransferProgress, sign_offs_of as sign_offs_of
from .secrets import Secrets as Secrets
