#include "output/piece_files.h"

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>
#include <charconv>
#include <map>
#include <optional>
#include <sstream>
#include <string>

#include "base/atomic_file.h"
#include "output/rgba_picture.h"
#include "recipe/json.h"
#include "recipe/limits.h"
#include "recipe/piece_text.h"
#include "strata/material_index.h"

namespace acre {
namespace {

namespace fs = std::filesystem;

constexpr uint64_t kLargestFile = uint64_t{4} << 20;
constexpr auto kSide = static_cast<int>(limits::pieceSide);

/// Cells of a drawing: materials by their ids, none where it leaves what is there.
struct Drawing {
  int wide = 0, rows = 0, layers = 0;
  std::vector<std::string> cells;  ///< x fastest, then z, then y.
};

Error refusal(const fs::path& file, std::string what, std::string accepted) {
  return invalidInput(std::move(what), file.string(), std::move(accepted));
}

Result<ObjectPiece> pieceOf(const Drawing& drawing, const ObjectPiece& like, const fs::path& file) {
  ObjectPiece out = like;
  out.layers.clear();
  out.signs.clear();
  resizePiece(out, static_cast<size_t>(drawing.wide), static_cast<size_t>(drawing.rows),
      static_cast<size_t>(drawing.layers));
  size_t n = 0;
  bool drawn = false;
  for (PieceLayer& layer : out.layers)
    for (std::string& row : layer.rows)
      for (char& sign : row) {
        const std::string& material = drawing.cells[n++];
        if (material.empty()) continue;
        sign = signFor(out, material);
        if (sign == ObjectPiece::kLeft)
          return refusal(file, "more materials than there are signs",
              fmt::format("at most {}", out.signs.size()));
        drawn = true;
      }
  if (!drawn)
    return refusal(file, "the drawing changes nothing", "at least one cell of a material");
  return out;
}

// ---- pictures ----------------------------------------------------------------------------------

Status addPicture(const fs::path& file, const std::vector<Material>& materials, Drawing& drawing) {
  const auto image =
      readRgba(file, kLargestFile, kSide, fmt::format("a PNG of 1 to {} pixels a side", kSide));
  if (!image) return image.error();
  const int wide = image->width, rows = image->height;
  if (drawing.layers > 0 && (wide != drawing.wide || rows != drawing.rows))
    return refusal(file, fmt::format("{} x {} pixels", wide, rows),
        fmt::format("{} x {}, as the first layer has", drawing.wide, drawing.rows));
  drawing.wide = wide;
  drawing.rows = rows;
  ++drawing.layers;
  for (size_t n = 0; n < image->pixels.size(); ++n) {
    const uint32_t pixel = image->pixels[n], alpha = pixel >> 24;
    std::string& cell = drawing.cells.emplace_back();
    if (alpha == 0) continue;
    const Colour colour{static_cast<uint8_t>(pixel >> 16), static_cast<uint8_t>(pixel >> 8),
        static_cast<uint8_t>(pixel)};
    const auto found = std::find_if(materials.begin(), materials.end(),
        [&](const Material& material) { return alpha == 255 && material.colour == colour; });
    if (found == materials.end()) {
      const auto across = static_cast<size_t>(wide);
      return refusal(file,
          fmt::format("{} in row {}, column {} is no material's colour", colourText(colour),
              n / across + 1, n % across + 1),
          "colours of materials, or clear");
    }
    cell = found->id;
  }
  return done();
}

/// The next of numbered files; nothing: its name has no number.
std::optional<fs::path> following(const fs::path& file) {
  const std::string stem = file.stem().string();
  const size_t digits = stem.size() - stem.find_last_not_of("0123456789") - 1;
  int number = 0;
  const char* end = stem.data() + stem.size();
  if (digits == 0 || digits == stem.size() ||
      std::from_chars(end - digits, end, number).ec != std::errc())
    return {};
  return file.parent_path() / fmt::format("{}{}{}", stem.substr(0, stem.size() - digits),
                                  number + 1, file.extension().string());
}

Result<Drawing> readPictures(const fs::path& first, const std::vector<Material>& materials) {
  Drawing out;
  std::error_code ignored;
  for (std::optional<fs::path> file = first;
       file && (out.layers == 0 || fs::exists(*file, ignored)); file = following(*file)) {
    if (out.layers == kSide)
      return refusal(*file, fmt::format("layer {}", kSide + 1), fmt::format("at most {}", kSide));
    if (Status added = addPicture(*file, materials, out); !added) return added.error();
  }
  return out;
}

// ---- volumes -----------------------------------------------------------------------------------

/// What a header says, line by line, and where the numbers begin.
struct Header {
  std::map<std::string, std::string, std::less<>> fields;
  std::map<uint32_t, std::string> names;
  size_t end = 0;
  std::string of(std::string_view field) const {
    const auto found = fields.find(field);
    return found == fields.end() ? std::string() : found->second;
  }
};

Header headerOf(std::string_view bytes) {
  Header out;
  for (size_t at = 0; at < bytes.size();) {
    const size_t end = std::min(bytes.find('\n', at), bytes.size());
    std::string_view line = bytes.substr(at, end - at);
    at = out.end = std::min(end + 1, bytes.size());
    if (!line.empty() && line.back() == '\r') line.remove_suffix(1);
    if (line.empty()) break;
    if (const size_t mark = line.find(":="); mark != line.npos) {
      constexpr std::string_view kValue = "value ";
      uint32_t number = 0;
      const std::string_view key = line.substr(0, mark);
      if (key.starts_with(kValue) &&
          std::from_chars(key.data() + kValue.size(), key.data() + key.size(), number).ec ==
              std::errc())
        out.names[number] = line.substr(mark + 2);
    } else if (const size_t colon = line.find(": "); colon != line.npos) {
      out.fields.emplace(line.substr(0, colon), line.substr(colon + 2));
    }
  }
  return out;
}

/// Exactly so many bytes; nothing: there are fewer, or more.
std::optional<std::string> unzipped(std::string_view bytes, size_t size) {
  z_stream stream{};
  constexpr int kGzip = 15 + 16;
  if (inflateInit2(&stream, kGzip) != Z_OK) return {};
  std::string out(size + 1, '\0');  // One more tells of too many.
  stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(bytes.data()));
  stream.avail_in = static_cast<uInt>(bytes.size());
  stream.next_out = reinterpret_cast<Bytef*>(out.data());
  stream.avail_out = static_cast<uInt>(out.size());
  const int ended = inflate(&stream, Z_FINISH);
  const size_t made = stream.total_out;
  inflateEnd(&stream);
  if (ended != Z_STREAM_END || made != size) return {};
  out.resize(size);
  return out;
}

Result<Drawing> readVolume(const fs::path& file, const std::vector<Material>& materials) {
  const auto bytes = readWholeFile(file, kLargestFile);
  if (!bytes) return bytes.error();
  if (!bytes->starts_with("NRRD")) return refusal(file, "no NRRD", "a file that begins with NRRD");
  const Header header = headerOf(*bytes);
  const auto refuse = [&](const char* field, const char* accepted) {
    const std::string said = header.of(field);
    return refusal(file,
        said.empty() ? fmt::format("no \"{}\"", field) : fmt::format("\"{}: {:.60}\"", field, said),
        accepted);
  };
  const std::string type = header.of("type");
  const auto is = [&](std::initializer_list<const char*> names) {
    return std::find(names.begin(), names.end(), type) != names.end();
  };
  const bool bytewise = is({"uint8", "uint8_t", "uchar", "unsigned char"});
  if (!bytewise && !is({"uint16", "uint16_t", "ushort", "unsigned short", "unsigned short int"}))
    return refuse("type", "uint8 or uint16");
  if (header.of("dimension") != "3") return refuse("dimension", "3");
  Drawing out;
  const std::string sizes = header.of("sizes");
  if (!(std::istringstream(sizes) >> out.wide >> out.rows >> out.layers) ||
      std::min({out.wide, out.rows, out.layers}) < 1 ||
      std::max({out.wide, out.rows, out.layers}) > kSide)
    return refuse("sizes", "three of 1 to 64: along x, z and y");
  const bool swapped = header.of("endian") == "big";
  if (!bytewise && !swapped && header.of("endian") != "little")
    return refuse("endian", "little or big");
  const size_t count = static_cast<size_t>(out.wide) * static_cast<size_t>(out.rows) *
                       static_cast<size_t>(out.layers);
  const size_t size = count * (bytewise ? 1 : 2);
  const std::string encoding = header.of("encoding");
  std::optional<std::string> body;
  if (encoding == "raw")
    body = bytes->substr(header.end);
  else if (encoding == "gzip" || encoding == "gz")
    body = unzipped(std::string_view(*bytes).substr(header.end), size);
  else
    return refuse("encoding", "raw or gzip");
  if (!body || body->size() != size)
    return refusal(
        file, "the numbers are cut off, broken or too many", fmt::format("{} bytes of them", size));
  for (size_t n = 0; n < count; ++n) {
    const auto byte = [&](size_t at) {
      return static_cast<uint32_t>(static_cast<uint8_t>((*body)[at]));
    };
    const uint32_t value = bytewise  ? byte(n)
                           : swapped ? byte(2 * n) << 8 | byte(2 * n + 1)
                                     : byte(2 * n + 1) << 8 | byte(2 * n);
    std::string& cell = out.cells.emplace_back();
    const auto named = header.names.find(value);
    if (named != header.names.end()) {
      const bool known = std::any_of(materials.begin(), materials.end(),
          [&](const Material& material) { return material.id == named->second; });
      if (known) cell = named->second;
      if (!known && named->second != "open" && named->second != "outside")
        return refusal(file,
            fmt::format("\"value {}:={:.60}\" is no material of this world", value, named->second),
            "ids of materials");
    } else if (value > materials.size()) {
      return refusal(file, fmt::format("the number {}", value),
          fmt::format("0 to {}, the materials of this world", materials.size()));
    } else if (value > 0) {
      cell = materials[value - 1].id;
    }
  }
  return out;
}

// ---- written -----------------------------------------------------------------------------------

/// The material of a sign; nullptr: it leaves or opens what is there.
const Material* meant(const ObjectPiece& piece, const std::vector<Material>& materials, char sign) {
  for (const PieceSign& one : piece.signs)
    for (const Material& material : materials)
      if (one.sign[0] == sign && one.material == material.id) return &material;
  return nullptr;
}

Status writePicture(const ObjectPiece& piece, const PieceLayer& layer,
    const std::vector<Material>& materials, const fs::path& file) {
  RgbaPicture image{
      static_cast<int32_t>(layer.rows[0].size()), static_cast<int32_t>(layer.rows.size()), {}};
  for (const std::string& row : layer.rows)
    for (const char sign : row) {
      const Material* material = meant(piece, materials, sign);
      image.pixels.push_back(material ? opaqueInk(material->colour) : 0);
    }
  return writeRgba(image, file);
}

Status writeVolume(
    const ObjectPiece& piece, const std::vector<Material>& materials, const fs::path& file) {
  std::string body, names;
  for (const PieceLayer& layer : piece.layers)
    for (const std::string& row : layer.rows)
      for (const char sign : row) {
        const Material* material = meant(piece, materials, sign);
        const auto value = material ? material - materials.data() + 1 : 0;
        body += static_cast<char>(value & 0xFF);
        body += static_cast<char>(value >> 8);
      }
  for (const PieceSign& sign : piece.signs)
    names += fmt::format("value {}:={}\n", indexOf(materials, sign.material), sign.material);
  return writeFile(file,
      fmt::format("NRRD0004\ntype: uint16\ndimension: 3\nsizes: {} {} {}\nencoding: raw\nendian: "
                  "little\n{}\n",
          piece.layers[0].rows[0].size(), piece.layers[0].rows.size(), piece.layers.size(), names) +
          body);
}

constexpr const char* kEndings = ".txt, .png, .nrrd";

}  // namespace

Result<ObjectPiece> readPiece(
    const fs::path& file, const ObjectPiece& like, const std::vector<Material>& materials) {
  const std::string ending = file.extension().string();
  if (ending == ".txt") {
    const auto bytes = readWholeFile(file, kLargestFile);
    if (!bytes) return bytes.error();
    return pieceFromText(*bytes, like);
  }
  if (ending != ".png" && ending != ".nrrd")
    return refusal(file, fmt::format("\"{}\" is no format for pieces", ending), kEndings);
  const auto drawing =
      ending == ".png" ? readPictures(file, materials) : readVolume(file, materials);
  if (!drawing) return drawing.error();
  return pieceOf(*drawing, like, file);
}

Status writePiece(
    const ObjectPiece& piece, const std::vector<Material>& materials, const fs::path& file) {
  const std::string ending = file.extension().string();
  if (ending == ".txt") return writeFile(file, pieceText(piece));
  if (ending == ".nrrd") return writeVolume(piece, materials, file);
  if (ending != ".png")
    return refusal(file, fmt::format("\"{}\" is no format for pieces", ending), kEndings);
  for (size_t k = 0; k < piece.layers.size(); ++k) {
    const fs::path name =
        piece.layers.size() == 1
            ? file
            : file.parent_path() / fmt::format("{}-{}.png", file.stem().string(), k + 1);
    if (Status made = writePicture(piece, piece.layers[k], materials, name); !made) return made;
  }
  return done();
}

}  // namespace acre
