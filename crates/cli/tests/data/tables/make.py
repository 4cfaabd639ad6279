"""Writes harbour.xlsx with openpyxl 3.1 (`pip install openpyxl`). harbour.ods is the same, saved by LibreOffice 7.4:
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
