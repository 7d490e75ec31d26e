"""The kinds of station that have pages. A new kind is a package beside this file and one line here."""

from goodbalance.web.kinds.booster.pages import BoosterPages
from goodbalance.web.kinds.circulator.pages import CirculatorPages
from goodbalance.web.kinds.lift.pages import LiftPages
from goodbalance.web.kinds.maintenance.pages import MaintenancePages
from goodbalance.web.kinds.pages import PAGES
from goodbalance.web.kinds.transfer.pages import TransferPages

PAGES.update({pages.id: pages for pages in (LiftPages(), BoosterPages(), TransferPages(), MaintenancePages(), CirculatorPages())})
