// Draws the tiles of a chunk: tiles CHUNK.csv OUT.ppm SIZE GROUP=SET.rgba ... with nothing but the
// standard library. CHUNK.csv: `acre chunk WORLD --at 0,0 --out CHUNK.csv`. SET.rgba: the bytes of
// the set's picture (`acre tiles WORLD SET --out SET.png`, eight tiles side by side), four a pixel,
// as any program that reads PNG hands them out; GROUP=SET.rgba+ for a set of the method corners.
// Groups are named from the lowest up.
#include <cstdint>
#include <fstream>
#include <iostream>
#include <iterator>
#include <sstream>
#include <string>
#include <vector>

namespace {

constexpr int kColumns = 8;

using Bytes = std::vector<unsigned char>;

/// Lays the tile that a value stands for at a place of the picture.
void lay(const Bytes& sheet, int size, unsigned value, int left, int top, int wide, int tall,
    std::vector<uint32_t>& out) {
  const int place = static_cast<int>(value & 8191) - 1, turns = static_cast<int>(value >> 13) % 4;
  const bool mirrored = value >> 13 >= 4;
  for (int j = 0; j < size; ++j)
    for (int i = 0; i < size; ++i) {
      // Back to where the pixel stands in the drawing: quarter turns, then the mirror.
      int x = i, y = j;
      for (int t = 0; t < turns; ++t) {
        const int up = x;
        x = y;
        y = size - 1 - up;
      }
      if (mirrored) x = size - 1 - x;
      const auto at = static_cast<size_t>(
          4 * ((place / kColumns * size + y) * kColumns * size + place % kColumns * size + x));
      if (left + i >= wide || top + j >= tall || at + 3 >= sheet.size() || sheet[at + 3] < 255)
        continue;
      out[static_cast<size_t>((top + j) * wide + left + i)] =
          uint32_t{sheet[at]} << 16 | uint32_t{sheet[at + 1]} << 8 | sheet[at + 2];
    }
}

std::vector<std::string> parted(const std::string& line) {
  std::vector<std::string> out;
  std::stringstream words(line);
  for (std::string word; std::getline(words, word, ',');) out.push_back(word);
  return out;
}

}  // namespace

int main(int count, char** said) {
  if (count < 5) return 2;
  std::ifstream file(said[1]);
  std::string line;
  std::getline(file, line);
  const std::vector<std::string> names = parted(line);
  std::vector<std::vector<std::string>> cells;
  while (std::getline(file, line)) cells.push_back(parted(line));
  if (cells.empty()) return 2;
  const int size = std::stoi(said[3]);
  const int x0 = std::stoi(cells.front()[0]), z0 = std::stoi(cells.front()[1]);
  const int wide = (1 + std::stoi(cells.back()[0]) - x0) * size;
  const int tall = (1 + std::stoi(cells.back()[1]) - z0) * size;
  std::vector<uint32_t> out(static_cast<size_t>(wide) * static_cast<size_t>(tall), 0xFBF9F3);
  for (int n = 4; n < count; ++n) {
    std::string group(said[n]);
    const bool between = group.back() == '+';  // Between four cells.
    if (between) group.pop_back();
    const size_t parts = group.find('=');
    std::ifstream picture(group.substr(parts + 1), std::ios::binary);
    const Bytes sheet{std::istreambuf_iterator<char>(picture), {}};
    const std::string name = "tile:" + group.substr(0, parts);
    size_t column = 0;
    while (column < names.size() && names[column] != name) ++column;
    if (column == names.size()) return 2;
    for (const auto& cell : cells)
      if (const auto value = static_cast<unsigned>(std::stoul(cell[column])))
        lay(sheet, size, value, (std::stoi(cell[0]) - x0) * size + (between ? size / 2 : 0),
            (std::stoi(cell[1]) - z0) * size + (between ? size / 2 : 0), wide, tall, out);
  }
  std::ofstream to(said[2], std::ios::binary);
  to << "P6\n" << wide << ' ' << tall << "\n255\n";
  for (const uint32_t pixel : out)
    for (const int shift : {16, 8, 0}) to.put(static_cast<char>(pixel >> shift));
  return to ? 0 : 1;
}
