"""Writes harbour.xlsx and sites.xlsx, 200 devices, with openpyxl 3.1 (`pip install openpyxl`). harbour.ods is the same, saved by LibreOffice 7.4:
`soffice --headless --convert-to ods harbour.xlsx`. Tests read these two files; they need neither program."""

import datetime
from openpyxl import Workbook

book = Workbook()
# The same bytes each time.
book.properties.created = book.properties.modified = datetime.datetime(2026, 11, 29)
cables = book.active
cables.title = "Cables"
cables.append(["Harbour authority: cables, as of spring"])
cables.append([])
cables.append(["Device A", "Port A", "Device B", "Port B", "Speed", "Cable type", "Cable ID"])
rows = [
    ["core-1", "1/1", "ingest-1", "eth0", "10G", "copper", "C-01"],
    ["core-1", "1/2", "readings-1", "eth0", "10G", "copper", "C-02"],
    ["core-1", "1/24", "pier-sw", "0/1", "1G", "fibre", "F-01"],
    [None, None, None, None, None, None, None],
    ["pier-sw", 5, "gauge-7", "serial", "115k", "serial", "S-01"],
    [None, 6, "mast-2", "lan", "100M", "copper", "C-11"],
    ["pier-sw", "0/1", "core-1", "1/24", "10G", "fibre", "F-01"],
    ["core-1", "1/2", "alert-desk", "eth0", "1G", "copper", "C-06"],
    ["Core-1", "1/5", "raedings-1", "eth1", "10G", "copper", "C-07"],
    ["core-1", "1/6", None, None, "1G", "copper", "C-08"],
    ["core-1", "1/48", "core-1", "1/47", "10G", "copper", "C-09"],
]
for row in rows:
    cables.append(row)
# Two cables of one switch: its cell is merged.
cables.merge_cells("A8:A9")
cables["H3"] = "Length"
cables["H4"] = "=2+3"
inventory = book.create_sheet("Inventory")
inventory.append(["Name", "Type", "Rack", "Site", "Owner", "Label"])
for row in [
    ["core-1", "Core switch", "1", "Shore", "Network office", "Core switch"],
    ["ingest-1", "Server", "1", "Shore", "Data office", None],
    ["readings-1", "Server", "2", "Shore", "Data office", None],
    ["alert-desk", "Workstation", None, "Shore", None, "Alert desk"],
    ["pier-sw", "Access switch", None, "Pier", "Network office", None],
    ["gauge-7", "Gauge", None, "Pier", None, "Pier gauge"],
    ["mast-2", "Radio", None, "Pier", None, None],
]:
    inventory.append(row)
notes = book.create_sheet("Notes")
notes.append(["Ask the harbour office before you unplug anything."])
book.save("harbour.xlsx")


def sites():
    """Three sites, 38 racks with an access switch and four devices each, two distribution switches a site, two core switches."""
    book = Workbook()
    book.properties.created = book.properties.modified = datetime.datetime(2026, 11, 30)
    cables, devices, ports = [], [], {}

    def port(device):
        ports[device] = ports.get(device, 0) + 1
        return f"eth{ports[device] - 1}" if device.startswith("host") else f"1/{ports[device]}"

    def cable(a, b, speed, medium):
        cables.append([f"C-{len(cables) + 1:03}", a, port(a), b, port(b), speed, medium])

    devices += [(f"core-{i}", "Switch", "Core", "Shore") for i in (1, 2)]
    hosts = 0
    for number, (site, racks) in enumerate([("Shore", 13), ("Pier", 13), ("Mole", 12)], 1):
        for which in "ab":
            devices.append((f"dist-{number}{which}", "Switch", f"{site[0]}0", site))
            for core in ("core-1", "core-2"):
                cable(core, f"dist-{number}{which}", "40G", "fibre")
        for rack in range(1, racks + 1):
            access = f"acc-{number}{rack:02}"
            devices.append((access, "Switch", f"{site[0]}{rack}", site))
            for which in "ab":
                cable(f"dist-{number}{which}", access, "10G", "fibre")
            for place in range(4):
                hosts += 1
                host = f"host-{hosts:03}"
                devices.append((host, "Server" if place else "Gauge", f"{site[0]}{rack}", site))
                cable(access, host, "1G", "copper")
    for i in (1, 2):
        devices.append((f"beacon-{i}", "Radio", "P1", "Pier"))
        cable("acc-201", f"beacon-{i}", "100M", "copper")
    used = next(row for row in cables if row[3] == "acc-101")
    core = cables[0]
    known = [
        ["C-901", "acc-101", used[4], "dist-2a", "1/99", "10G", "fibre"],  # port-in-use
        [core[0], core[3], core[4], core[1], core[2], "10G", "fibre"],  # directions-differ
        ["C-903", "Acc-102", "1/40", "camera-9", "eth0", "1G", "copper"],  # spelled-two-ways, not-listed
        ["C-904", "dist-2b", "1/50", None, None, "1G", "copper"],  # end-missing
        ["C-905", "core-1", "1/60", "core-1", "1/61", "1G", "copper"],  # joined-with-itself
    ]
    sheet = book.active
    sheet.title = "Cables"
    sheet.append(["Cable", "From", "From port", "To", "To port", "Speed", "Medium"])
    for row in cables + known:
        sheet.append(row)
    sheet = book.create_sheet("Inventory")
    sheet.append(["Name", "Type", "Rack", "Site"])
    for device in devices:
        sheet.append(device)
    assert len(devices) == 200
    book.save("sites.xlsx")


sites()
