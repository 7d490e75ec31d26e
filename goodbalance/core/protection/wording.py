"""What the bench says of a supply and of the parts of a motor, whatever the kind of station."""

from goodbalance.core.protection.names import SupplyAct, SupplyFault

SUPPLY_FAULTS: dict[SupplyFault, tuple[str, str]] = {  # as it is put in, and as it is mended
    SupplyFault.PHASE: ("One phase of the supply is lost", "All phases are back"),
    SupplyFault.SWAPPED: ("Two phases of the supply are swapped", "The phases are in their order again"),
    SupplyFault.LOW: ("The supply sags to three quarters", "The supply has its voltage again"),
    SupplyFault.HIGH: ("The supply rises by a fifth", "The supply has its voltage again"),
    SupplyFault.UNEVEN: ("The phases of the supply are uneven", "The phases of the supply are even again"),
}
TURNED: dict[SupplyAct, str] = {SupplyAct.VOLTS: "Supply turned to {v} of the plate", SupplyAct.UNEVENNESS: "Phases of the supply turned apart by {v}"}
WELDED = ("has its contactor welded", "has a sound contactor again")
CAPACITOR = ("has a weak capacitor: it hums and does not start", "has a sound capacitor again")
WINDING = ("has a wire of its winding's contacts off", "has its winding's contacts back")
BOILS = "The water in the casing of pump <n> boils: its seal goes, and who opens it is scalded"
UNCALLED = "Pump <n> runs and nobody calls it: its contactor is welded"
WAITS = "The supply was away: the pumps wait for a person"
SHORT: dict[SupplyFault, str] = {  # under the heading of the supply
    SupplyFault.PHASE: "a phase", SupplyFault.SWAPPED: "phases swapped", SupplyFault.LOW: "voltage low", SupplyFault.HIGH: "voltage high", SupplyFault.UNEVEN: "phases uneven",
}  # fmt: skip
