"""Devices over Modbus: registers by hand, a stand-in read by an independent client and by the page, and every way it fails."""

import struct
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st
from pymodbus.client import ModbusTcpClient

from goodbalance.core.errors import BrokenFile
from goodbalance.core.sheets.registers import LIVE, NOTHING, Register, number_of, words_of
from goodbalance.demo.lifts import SLIPWAY, SLIPWAY_CHOICES
from goodbalance.exchange.modbus import Address, DeviceSilent, allowed_devices, read_device
from goodbalance.launch.database_server import free_port
from goodbalance.standins.server import Broken
from goodbalance.standins.station import stand_in
from tests.answering import Answering
from tests.web.visits import WebTest, key


class RegisterTest(unittest.TestCase):
    def test_words_by_hand(self) -> None:
        """1.21 with two decimals is 121; -3 is all ones but the last two; 70000 = 1 * 65536 + 4464."""
        level = Register("4 lift", 100, 2, ())
        self.assertEqual((level.number("1,21"), level.shown(121), level.number(" "), level.shown(NOTHING)), (121, "1.21", NOTHING, ""))
        self.assertEqual((words_of(121, False), words_of(-3, False), words_of(70000, True)), ((0, 121), (0xFFFF, 0xFFFD), (4464, 1)))
        way = Register("way", 102, 0, ("plain", "with it"))
        self.assertEqual((way.number("With it"), way.shown(0), way.shown(7)), (1, "plain", "option 7"))
        with self.assertRaises(ValueError):
            words_of(2**31, False)

    @given(st.integers(-(2**31), 2**31 - 1), st.booleans())
    def test_words_come_back(self, number: int, low_first: bool) -> None:
        words = words_of(number, low_first)
        self.assertEqual(number_of(words, low_first), number)
        self.assertEqual(struct.pack(">i", number), struct.pack(">HH", *(words[::-1] if low_first else words)))

    def test_the_list_of_allowed_devices(self) -> None:
        self.assertEqual(allowed_devices(" Sump = 10.0.0.5:502; Set=pump.local:1502 ;"), {"Sump": Address("10.0.0.5", 502), "Set": Address("pump.local", 1502)})
        self.assertTrue(allowed_devices("Sump=10.0.0.5:502 write")["Sump"].may_write)
        for wrong in ("Sump", "Sump=10.0.0.5", "=a:1", "a=b:0", "a=b:70000", "a=:5", "a=b:x", "a=b:5 erase"):
            with self.assertRaises(BrokenFile):
                allowed_devices(wrong)


class StandInTest(unittest.TestCase):
    def test_another_client_reads_types_and_saves(self) -> None:
        """Start 1 typed 10 cm higher acts at once, is forgotten at the next start unless saved, and an unknown option is refused."""
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "tray.json"
            device = stand_in("ebbstone_tray", file)
            at = next(register for register in device.registers if register.code == "5 lift")
            before = device.shown["5 lift"]
            with Answering(device) as there:
                client = ModbusTcpClient("127.0.0.1", port=there.port)
                client.connect()
                words = client.read_holding_registers(at.address, count=2).registers
                self.assertEqual(client.convert_from_registers(words, client.DATATYPE.INT32), round(float(before) * 100))
                self.assertFalse(client.write_registers(at.address, [0, 115]).isError())
                self.assertEqual(device.shown["5 lift"], "1.15")
                self.assertEqual(read_device("127.0.0.1", there.port, device.registers)["5 lift"], "1.15")
                token = next(register.address for register in device.registers if register.code == "1 token")
                for refused in (client.write_registers(token, [0, 9]), client.write_registers(at.address + 1, [0, 1]), client.write_register(5, 1)):
                    self.assertTrue(refused.isError())
                self.assertEqual(stand_in("ebbstone_tray", file).shown["5 lift"], before)
                self.assertFalse(client.write_registers(10, [1]).isError())
                self.assertEqual(stand_in("ebbstone_tray", file).shown["5 lift"], "1.15")
                live = client.read_input_registers(LIVE, count=2).registers
                self.assertGreater(client.convert_from_registers(live, client.DATATYPE.INT32), 0)  # the level, in mm
                client.close()

    def test_it_runs_the_program_that_is_typed_into_it(self) -> None:
        """With every relay at rest no pump comes however long it runs; with the plan typed in, one does."""
        for typed, runs in (({}, True), ({"3 token": "blank", "5 token": "blank"}, False)):
            device = stand_in("ebbstone_tray")
            for code, text in typed.items():
                device.type_in(code, text)
            turned = False
            for _ in range(60):
                device.go_on(120.0)
                live = dict(device.live())
                turned = turned or live["pump_1"] + live["pump_2"] > 0.0
            self.assertIs(turned, runs)

    def test_each_way_it_fails_is_said_and_nothing_is_believed(self) -> None:
        device = stand_in("sandhopper_lanes")
        for broken, within_s, words in ((Broken.SILENT, 0.3, "stopped answering"), (Broken.SLOW, 0.3, "stopped answering"), (Broken.EXCEPTIONS, 3.0, "answers register 0 with")):
            with Answering(device, broken) as there, self.assertRaisesRegex(DeviceSilent, words):
                read_device("127.0.0.1", there.port, device.registers, within_s)
        with Answering(device) as there:
            self.assertEqual(read_device("127.0.0.1", there.port, device.registers), device.shown)  # low word first
            with self.assertRaisesRegex(DeviceSilent, "it is another one"):
                read_device("127.0.0.1", there.port, device.registers[:-1])
        with self.assertRaisesRegex(DeviceSilent, "nothing answers"):
            read_device("127.0.0.1", free_port(), device.registers, 0.3)
        with self.assertRaises(KeyError):
            stand_in("gas_valve")

    def test_the_command_says_what_is_wrong(self) -> None:
        for asked, words in ((["gas_valve"], "no station of the demo"), (["ebbstone_tray", "--wrong", "zz=1"], "has no code 'zz'")):
            found = subprocess.run([sys.executable, "-m", "goodbalance.standins", *asked], capture_output=True, text=True, timeout=60)
            self.assertEqual(found.returncode, 1)
            self.assertIn(words, found.stderr)


class ReadOverModbusTest(WebTest):
    def test_a_station_is_read_back_from_its_device(self) -> None:
        """One number of the device stands otherwise: it shows as a difference, with whose link told it; an unlisted name is refused."""
        path = self.station(SLIPWAY)
        self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": SLIPWAY_CHOICES})
        self.assertNotIn("Read back over Modbus", self.ada.get(f"{path}/enter").text)
        refused = self.ada.form(f"{path}/read-device", save_key=key(), **{"from": "Tray"})
        self.assertEqual(refused.status_code, 422)
        device = stand_in("ebbstone_tray")
        right = device.shown["4 lift"]
        device.type_in("4 lift", f"{float(right) * 10.0:.2f}")
        with Answering(device) as there:
            self.web.app.state.devices = {"Tray": Address("127.0.0.1", there.port), "Nobody": Address("127.0.0.1", free_port())}
            try:
                silent = self.ada.form(f"{path}/read-device", save_key=key(), **{"from": "Nobody"})
                self.assertEqual(silent.status_code, 502)
                self.assertIn("nothing answers at 127.0.0.1", silent.text)
                page = self.ada.form(f"{path}/read-device", save_key=key(), **{"from": "Tray"}).text
            finally:
                self.web.app.state.devices = {}
        self.assertIn("1 differ", page)
        self.assertIn("The decimal point slipped", page)
        self.assertRegex(self.ada.get(f"{path}/handover").text, r"Ada Wren over Modbus from Tray \(127.0.0.1:[0-9]+\)")


class LiveTest(WebTest):
    def test_what_is_told_stands_beside_what_is_expected_and_nothing_old_is_shown(self) -> None:
        """The tray with the plan typed in; then frozen, of another station, silent, and a name that is not allowed."""
        path = self.station(SLIPWAY)
        self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": SLIPWAY_CHOICES})
        self.assertIn("No device to watch", self.ada.get(f"{path}/live").text)
        device = stand_in("ebbstone_tray")
        device.turn(2, 1)
        with Answering(device) as there, Answering(stand_in("sandhopper_lanes")) as other, Answering(stand_in("ebbstone_tray"), Broken.FROZEN) as frozen:
            self.web.app.state.devices = {"Tray": Address("127.0.0.1", there.port), "Lanes": Address("127.0.0.1", other.port), "Nobody": Address("127.0.0.1", free_port()), "Ice": Address("127.0.0.1", frozen.port)}
            try:
                self.assertIn('data-channel="relay_start_1"', self.ada.get(f"{path}/live").text)
                answer = self.ada.get(f"{path}/live/now?device=Tray").json()
                rows = {row["name"]: row for row in answer["rows"]}
                self.assertEqual((rows["switch_2"]["text"], rows["switch_2"]["holds"], rows["switch_1"]["holds"]), ("OFF", False, True))
                self.assertIs(rows["level_m"]["holds"], True)
                self.assertEqual(len(answer["values"]), len(rows))
                again = [self.ada.get(f"{path}/live/now?device=Ice").json()["beat"] for _ in range(2)]
                self.assertEqual(again[0], again[1])
                for name, words in (("Lanes", "it is another one"), ("Nobody", "nothing answers")):
                    lost = self.ada.get(f"{path}/live/now?device={name}")
                    self.assertEqual((lost.status_code, words in lost.json()["error"], "rows" in lost.json()), (502, True, False))
                self.assertEqual(self.ada.get(f"{path}/live/now?device=Elsewhere").status_code, 422)
            finally:
                self.web.app.state.devices = {}

    def test_a_trend_that_was_watched_is_kept_and_proofs_are_taken_from_it(self) -> None:
        path = self.station(SLIPWAY)
        self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": SLIPWAY_CHOICES})
        device, rows = stand_in("ebbstone_tray"), []
        for second in range(0, 5000, 5):
            device.go_on(5.0)
            rows.append([float(second), *(value for _, value in device.live())])
        self.web.app.state.devices = {"Tray": Address("127.0.0.1", 1)}
        try:
            kept = self.ada.json(f"{path}/live/trends", {"save_key": key(), "device": "Tray", "rows": rows})
            for wrong in ([rows[1], rows[0]], [row[:-1] for row in rows[:2]], rows[:1]):
                self.assertEqual(self.ada.json(f"{path}/live/trends", {"save_key": key(), "device": "Tray", "rows": wrong}).status_code, 422)
            self.assertEqual(self.ada.json(f"{path}/live/trends", {"save_key": key(), "device": "Else", "rows": rows}).status_code, 422)
        finally:
            self.web.app.state.devices = {}
        url = kept.json()["url"]
        page = self.ada.get(url).text
        self.assertIn("Pump 1 relay pulls in on the rise", page)
        self.assertIn("passed", page)
        self.assertEqual(self.ada.form(url, save_key=key(), **{"take-up_start_1": "yes"}).status_code, 422)
        page = self.ada.form(url, save_key=key(), method="real_water", **{"take-up_start_1": "yes", "take-down_start_1": "yes", "take-made_up": "yes"}).text
        self.assertIn("2 of 23 passed", page)
        self.assertIn("read off live from Tray", page)
        self.assertEqual(self.ada.get(f"{path}/trends/9999/proofs").status_code, 404)


class WriteTest(WebTest):
    def test_one_number_goes_old_to_new_with_pumps_off_and_a_right_and_is_read_back(self) -> None:
        """Without the right, to a device only to be read, with a pump in AUTO, and over a number changed meanwhile nothing is written."""
        path = self.station(SLIPWAY)
        self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": SLIPWAY_CHOICES})
        device = stand_in("ebbstone_tray")
        wanted = device.shown["5 lift"]
        device.type_in("5 lift", "1.33")
        device.turn(1, 1)
        with Answering(device) as there:
            self.web.app.state.devices = {"Tray": Address("127.0.0.1", there.port, True), "Read only": Address("127.0.0.1", there.port)}
            asked = {"code": "5 lift", "to": "Tray"}
            self.assertEqual(self.ada.form(f"{path}/write-ask", **asked).status_code, 403)
            number = self.ada.get("/people").text.split("/devices")[0].rsplit("/people/", 1)[1]
            self.assertIn("devices too", self.ada.form(f"/people/{number}/devices", may="yes").text)
            self.ada = self.ada.sign_in("Ada Wren", "quite long enough here")
            self.assertEqual(self.ada.form(f"{path}/write-ask", code="5 lift", to="Read only").status_code, 422)
            on = self.ada.form(f"{path}/write-ask", **asked)
            self.assertEqual((on.status_code, "pump 2 is not in OFF" in on.text), (409, True))
            device.turn(2, 1)
            page = self.ada.form(f"{path}/write-ask", **asked).text
            self.assertRegex(page, rf"1\.33</span>.{{0,80}}becomes.{{0,120}}{wanted}")
            meanwhile = self.ada.form(f"{path}/write", **asked, old="1.20", new=wanted, save_key=key())
            self.assertEqual((meanwhile.status_code, "it was changed meanwhile" in meanwhile.text, device.shown["5 lift"]), (409, True, "1.33"))
            self.assertEqual(self.ada.form(f"{path}/write", **asked, old="1.33", new="9.99", save_key=key()).status_code, 422)
            self.assertEqual(self.ada.form(f"{path}/write", code="zz", to="Tray", old="", new="", save_key=key()).status_code, 422)
            done = self.ada.form(f"{path}/write", **asked, old="1.33", new=wanted, save_key=key())
            self.assertIn(f"read back {wanted}", done.text)
            self.assertEqual(device.shown["5 lift"], wanted)
        self.web.app.state.devices = {}
        self.assertRegex(self.ada.get(f"{path}/handover").text, r"over Modbus from Tray \(127.0.0.1:[0-9]+\), written over 1.33")
        deeds = self.ada.get("/people/deeds").text
        self.assertRegex(deeds, rf"Tray: 5 lift 1\.33 to {wanted}, read back {wanted}")
        self.assertIn("did not go", deeds)
