#include "recipe/piece_text.h"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include "recipe/limits.h"

namespace acre {
namespace {

/// A line "# brick".
bool isSign(std::string_view line) {
  return line.size() > 2 && line[1] == ' ' && line[0] != ObjectPiece::kLeft &&
         line[0] != ObjectPiece::kOpened;
}

}  // namespace

std::string pieceText(const ObjectPiece& piece) {
  std::string out;
  for (const PieceSign& sign : piece.signs) out += sign.sign + " " + sign.material + "\n";
  for (const PieceLayer& layer : piece.layers) {
    if (!out.empty()) out += "\n";
    for (const std::string& row : layer.rows) out += row + "\n";
  }
  return out;
}

Result<ObjectPiece> pieceFromText(std::string_view text, const ObjectPiece& like) {
  ObjectPiece out = like;
  out.layers.clear();
  std::vector<PieceSign> signs;
  bool between = true;
  size_t number = 0;
  while (!text.empty()) {
    const size_t end = std::min(text.find('\n'), text.size());
    std::string_view line = text.substr(0, end);
    text.remove_prefix(std::min(end + 1, text.size()));
    ++number;
    while (!line.empty() && (line.back() == '\r' || line.back() == ' ')) line.remove_suffix(1);
    const auto refuse = [&](std::string what, std::string accepted) {
      return invalidInput(std::move(what), fmt::format("line {}", number), std::move(accepted));
    };
    if (line.empty()) {
      between = true;
      continue;
    }
    if (out.layers.empty() && isSign(line)) {
      signs.push_back({std::string(line.substr(0, 1)), std::string(line.substr(2))});
      continue;
    }
    if (line.size() > limits::pieceSide)
      return refuse(fmt::format("{} cells are too wide", line.size()),
          fmt::format("at most {}", limits::pieceSide));
    if (between) out.layers.emplace_back();
    between = false;
    std::vector<std::string>& rows = out.layers.back().rows;
    if (!out.layers[0].rows.empty() && line.size() != out.layers[0].rows[0].size())
      return refuse(fmt::format("{} signs, where the first row has {}", line.size(),
                        out.layers[0].rows[0].size()),
          "rows all as long as the first");
    rows.emplace_back(line);
    if (rows.size() > limits::pieceSide || out.layers.size() > limits::pieceSide)
      return refuse(
          "the drawing is too large", fmt::format("at most {} rows and layers", limits::pieceSide));
  }
  if (out.layers.empty())
    return invalidInput("no drawing", "the text", "rows of signs, a blank line between layers");
  for (size_t k = 1; k < out.layers.size(); ++k)
    if (out.layers[k].rows.size() != out.layers[0].rows.size())
      return invalidInput(fmt::format("layer {} has {} rows, where the first has {}", k + 1,
                              out.layers[k].rows.size(), out.layers[0].rows.size()),
          "the text", "layers all as large as the first");
  if (!signs.empty()) out.signs = std::move(signs);
  if (out.anchor) {
    const auto wide = static_cast<int32_t>(out.layers[0].rows[0].size());
    const auto rows = static_cast<int32_t>(out.layers[0].rows.size());
    if (out.anchor->x >= wide || out.anchor->z >= rows) out.anchor.reset();
  }
  return out;
}

void resizePiece(ObjectPiece& piece, size_t wide, size_t rows, size_t layers) {
  piece.layers.resize(layers);
  for (PieceLayer& layer : piece.layers) {
    layer.rows.resize(rows);
    for (std::string& row : layer.rows) row.resize(wide, ObjectPiece::kLeft);
  }
  if (!piece.anchor) return;
  piece.anchor->x = std::min(piece.anchor->x, static_cast<int32_t>(wide) - 1);
  piece.anchor->z = std::min(piece.anchor->z, static_cast<int32_t>(rows) - 1);
}

char signFor(ObjectPiece& piece, const std::string& material) {
  for (const PieceSign& sign : piece.signs)
    if (sign.material == material) return sign.sign[0];
  constexpr std::string_view kSigns =
      "#abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789+*o=%&@$";
  for (const char sign : kSigns)
    if (std::none_of(piece.signs.begin(), piece.signs.end(),
            [&](const PieceSign& one) { return one.sign[0] == sign; })) {
      piece.signs.push_back({std::string(1, sign), material});
      return sign;
    }
  return ObjectPiece::kLeft;
}

}  // namespace acre
