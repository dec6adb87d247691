#include "output/rgba_picture.h"

#include <fmt/format.h>
#include <png.h>

#include "base/atomic_file.h"

namespace acre {
namespace {

constexpr size_t kChannels = 4;  // Of a pixel.

struct Image : png_image {
  Image() : png_image{} { version = PNG_IMAGE_VERSION; }
  ~Image() { png_image_free(this); }
};

}  // namespace

Result<RgbaPicture> readRgba(const std::filesystem::path& file, uint64_t mostBytes,
    int32_t mostSide, const std::string& accepted) {
  const auto bytes = readWholeFile(file, mostBytes);
  if (!bytes) return bytes.error();
  return rgbaOf(*bytes, file.string(), mostSide, accepted);
}

Result<RgbaPicture> rgbaOf(std::string_view bytes, const std::string& name, int32_t mostSide,
    const std::string& accepted) {
  const auto refuse = [&](std::string what) {
    return invalidInput(std::move(what), name, accepted);
  };
  Image image;
  if (!png_image_begin_read_from_memory(&image, bytes.data(), bytes.size()))
    return refuse("a broken PNG");
  const auto most = static_cast<png_uint_32>(mostSide);
  if (image.width > most || image.height > most)
    return refuse(fmt::format("{} x {} pixels", image.width, image.height));
  image.format = PNG_FORMAT_RGBA;
  std::vector<uint8_t> raw(PNG_IMAGE_SIZE(image));
  if (!png_image_finish_read(&image, nullptr, raw.data(), 0, nullptr))
    return refuse("a PNG that is cut off");
  RgbaPicture out{static_cast<int32_t>(image.width), static_cast<int32_t>(image.height), {}};
  out.pixels.reserve(raw.size() / kChannels);
  for (const uint8_t* p = raw.data(); p != raw.data() + raw.size(); p += kChannels)
    out.pixels.push_back(uint32_t{p[3]} << 24 | uint32_t{p[0]} << 16 | uint32_t{p[1]} << 8 | p[2]);
  return out;
}

Status writeRgba(const RgbaPicture& picture, const std::filesystem::path& file) {
  Image image;
  image.width = static_cast<png_uint_32>(picture.width);
  image.height = static_cast<png_uint_32>(picture.height);
  image.format = PNG_FORMAT_RGBA;
  std::vector<uint8_t> raw;
  raw.reserve(picture.pixels.size() * kChannels);
  for (const uint32_t pixel : picture.pixels)
    for (const int shift : {16, 8, 0, 24}) raw.push_back(static_cast<uint8_t>(pixel >> shift));
  png_alloc_size_t size = PNG_IMAGE_PNG_SIZE_MAX(image);
  std::string bytes(size, '\0');
  if (!png_image_write_to_memory(&image, bytes.data(), &size, 0, raw.data(), 0, nullptr))
    return invalidInput("the picture cannot be written", file.string(), "a smaller one");
  bytes.resize(size);
  return writeFile(file, bytes);
}

}  // namespace acre
