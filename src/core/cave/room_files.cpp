#include "cave/room_files.h"

#include <fmt/format.h>
#include <png.h>

#include "base/atomic_file.h"

namespace acre {
namespace {

constexpr uint64_t kLargestFile = uint64_t{1} << 20;
constexpr uint32_t kLargestSide = 256;

Result<std::string> readPng(
    const std::string& bytes, const std::string& name, const std::string& where) {
  const auto refuse = [&](std::string what) {
    return Error{Error::Code::InvalidInput, fmt::format("{} {}", name, what), where,
        fmt::format("a PNG of 1 to {} pixels a side, each black, white or clear", kLargestSide)};
  };
  struct Image : png_image {
    Image() : png_image{} { version = PNG_IMAGE_VERSION; }
    ~Image() { png_image_free(this); }
  } image;
  if (!png_image_begin_read_from_memory(&image, bytes.data(), bytes.size()))
    return refuse("is a broken PNG");
  if (image.width > kLargestSide || image.height > kLargestSide)
    return refuse(fmt::format("has {} x {} pixels", image.width, image.height));
  image.format = PNG_FORMAT_RGBA;
  std::vector<uint8_t> pixels(PNG_IMAGE_SIZE(image));
  if (!png_image_finish_read(&image, nullptr, pixels.data(), 0, nullptr))
    return refuse("is cut off or broken");
  std::string text;
  for (uint32_t z = 0; z < image.height; ++z) {
    for (uint32_t x = 0; x < image.width; ++x) {
      const uint8_t* p = pixels.data() + (size_t{z} * image.width + x) * 4;
      const bool grey = p[0] == p[1] && p[1] == p[2];
      if (p[3] == 0)
        text += ' ';
      else if (p[3] == 255 && grey && (p[0] == 0 || p[0] == 255))
        text += p[0] == 0 ? '#' : '.';
      else
        return refuse(fmt::format("has #{:02X}{:02X}{:02X}{:02X} in row {}, column {}", p[0], p[1],
            p[2], p[3], z + 1, x + 1));
    }
    text += '\n';
  }
  return text;
}

}  // namespace

Result<RoomTexts> readRooms(const Level& level, const std::filesystem::path& folder) {
  RoomTexts out(level.processes.size());
  for (size_t k = 0; k < level.processes.size(); ++k) {
    const auto* rooms = std::get_if<LevelRooms>(&level.processes[k].what);
    if (!rooms) continue;
    for (size_t n = 0; n < rooms->pieces.size(); ++n) {
      const LevelRooms::Piece& piece = rooms->pieces[n];
      if (piece.file.empty()) {
        out[k].push_back(piece.text);
        continue;
      }
      const std::string where = fmt::format("/level/processes/{}/pieces/{}/file", k, n);
      const std::filesystem::path file = folder / piece.file;
      auto bytes = readWholeFile(file, kLargestFile);
      if (!bytes)
        return Error{bytes.error().code,
            fmt::format("{} cannot be read: {}", file.string(), bytes.error().what), where,
            "a text file of '#', '.', ' ' and marks, or a PNG"};
      const bool png = bytes->size() >= 8 &&
                       png_sig_cmp(reinterpret_cast<const uint8_t*>(bytes->data()), 0, 8) == 0;
      if (png) {
        auto text = readPng(*bytes, file.string(), where);
        if (!text) return text.error();
        bytes = std::move(text);
      }
      out[k].push_back(std::move(*bytes));
    }
  }
  return out;
}

}  // namespace acre
