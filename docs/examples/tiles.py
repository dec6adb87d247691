"""Draws the tiles of a chunk: python3 tiles.py CHUNK.csv OUT.png GROUP=SET.png ...

CHUNK.csv: `acre chunk WORLD --at 0,0 --out CHUNK.csv`. SET.png: `acre tiles WORLD SET --out SET.png`, eight tiles side by
side; GROUP=SET.png+ for a set of the method corners. Groups are named from the lowest up.
"""
import csv
import struct
import sys
import zlib

COLUMNS = 8


def read_png(name):
    data = open(name, "rb").read()
    at, body = 8, b""
    while at < len(data):
        size, kind = struct.unpack(">I4s", data[at:at + 8])
        if kind == b"IHDR":
            width, height = struct.unpack(">II", data[at + 8:at + 16])
        if kind == b"IDAT":
            body += data[at + 8:at + 8 + size]
        at += 12 + size
    raw, rows, last = zlib.decompress(body), [], bytes(4 * width)
    for y in range(height):  # RGBA, 8 bits, each row with its filter before it.
        how, row = raw[y * (4 * width + 1)], bytearray(raw[y * (4 * width + 1) + 1:(y + 1) * (4 * width + 1)])
        for i in range(len(row)):
            a, b, c = (row[i - 4], last[i], last[i - 4]) if i >= 4 else (0, last[i], 0)
            nearest = min((abs(b - c), 0, a), (abs(a - c), 1, b), (abs(a + b - 2 * c), 2, c))[2]
            row[i] = (row[i] + (0, a, b, (a + b) // 2, nearest)[how]) & 255
        rows.append([tuple(row[i:i + 4]) for i in range(0, len(row), 4)])
        last = bytes(row)
    return rows


def write_png(name, rows):
    def part(kind, body):
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
    raw = b"".join(b"\0" + b"".join(bytes(p[:3]) for p in row) for row in rows)
    head = struct.pack(">IIBBBBB", len(rows[0]), len(rows), 8, 2, 0, 0, 0)
    open(name, "wb").write(b"\x89PNG\r\n\x1a\n" + part(b"IHDR", head) + part(b"IDAT", zlib.compress(raw)) + part(b"IEND", b""))


def picture(sheet, size, value):
    """The pixels that a value of a cell stands for."""
    place, orientation = (value & 8191) - 1, value >> 13
    x, y = place % COLUMNS * size, place // COLUMNS * size
    tile = [row[x:x + size] for row in sheet[y:y + size]]
    if orientation >= 4:  # East for west ...
        tile = [row[::-1] for row in tile]
    for _ in range(orientation % 4):  # ... then quarter turns clockwise.
        tile = [list(row) for row in zip(*tile[::-1])]
    return tile


def main():
    cells = list(csv.DictReader(open(sys.argv[1])))
    x0, z0 = int(cells[0]["x"]), int(cells[0]["z"])
    wide = 1 + int(cells[-1]["x"]) - x0
    tall = 1 + int(cells[-1]["z"]) - z0
    out = None
    for said in sys.argv[3:]:
        group, name = said.rstrip("+").split("=")
        sheet = read_png(name)
        size = len(sheet[0]) // COLUMNS
        out = out or [[(251, 249, 243, 255)] * (wide * size) for _ in range(tall * size)]
        shift = size // 2 if said.endswith("+") else 0  # These lie between four cells.
        for cell in cells:
            value = int(cell["tile:" + group])
            if value == 0:
                continue
            left = (int(cell["x"]) - x0) * size + shift
            top = (int(cell["z"]) - z0) * size + shift
            for j, row in enumerate(picture(sheet, size, value)):
                for i, pixel in enumerate(row):
                    if pixel[3] == 255 and top + j < len(out) and left + i < len(out[0]):
                        out[top + j][left + i] = pixel
    write_png(sys.argv[2], out)


main()
