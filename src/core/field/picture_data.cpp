#include "field/picture_data.h"

#include <fmt/format.h>
#include <png.h>

#include <csetjmp>
#include <cstring>

#include "base/atomic_file.h"

namespace acre {
namespace {

constexpr uint64_t kLargestFile = uint64_t{1} << 29;

struct PngBytes {
  const std::string& bytes;
  size_t at = 0;
};

void onRead(png_structp png, png_bytep data, size_t size) {
  auto* source = static_cast<PngBytes*>(png_get_io_ptr(png));
  if (size > source->bytes.size() - source->at) png_error(png, "short");
  std::memcpy(data, source->bytes.data() + source->at, size);
  source->at += size;
}
void onError(png_structp png, png_const_charp) {
  std::longjmp(png_jmpbuf(png), 1);
}
void onWarning(png_structp, png_const_charp) {}

/// Everything that may jump stands in functions without destructors of their own.
bool readHead(png_structp png, png_infop info) {
  if (setjmp(png_jmpbuf(png))) return false;
  png_read_info(png, info);
  return true;
}
bool readRows(png_structp png, png_infop info, png_bytepp rows) {
  if (setjmp(png_jmpbuf(png))) return false;
  png_set_interlace_handling(png);
  png_read_update_info(png, info);
  png_read_image(png, rows);
  png_read_end(png, nullptr);
  return true;
}

}  // namespace

Result<std::shared_ptr<const GreyPicture>> readGreyPicture(
    const std::filesystem::path& file, const std::string& where) {
  const auto refuse = [&](std::string what) {
    return Error{Error::Code::InvalidInput, fmt::format("{} {}", file.string(), what), where,
        fmt::format("a greyscale PNG of 8 or 16 bits, {} to {} pixels a side",
            GreyPicture::kLeastSide, GreyPicture::kMostSide)};
  };
  const auto bytes = readWholeFile(file, kLargestFile);
  if (!bytes) return refuse("cannot be read: " + bytes.error().what);
  if (bytes->size() < 8 || png_sig_cmp(reinterpret_cast<const uint8_t*>(bytes->data()), 0, 8) != 0)
    return refuse("is not a PNG");
  struct Reader {
    png_structp png = png_create_read_struct(PNG_LIBPNG_VER_STRING, nullptr, onError, onWarning);
    png_infop info = png ? png_create_info_struct(png) : nullptr;
    ~Reader() { png_destroy_read_struct(&png, &info, nullptr); }
  } reader;
  if (!reader.png || !reader.info) return refuse("cannot be decoded");
  PngBytes source{*bytes};
  png_set_read_fn(reader.png, &source, onRead);
  png_set_user_limits(reader.png, 0x7FFFFFFF, 0x7FFFFFFF);  // Checked below, in our own words.
  if (!readHead(reader.png, reader.info)) return refuse("is a broken PNG");
  const uint32_t width = png_get_image_width(reader.png, reader.info);
  const uint32_t height = png_get_image_height(reader.png, reader.info);
  const int depth = png_get_bit_depth(reader.png, reader.info);
  const auto fits = [](uint32_t n) {
    return n >= GreyPicture::kLeastSide && n <= GreyPicture::kMostSide;
  };
  if (!fits(width) || !fits(height))
    return refuse(fmt::format("has {} x {} pixels", width, height));
  if (png_get_color_type(reader.png, reader.info) != PNG_COLOR_TYPE_GRAY ||
      (depth != 8 && depth != 16))
    return refuse(fmt::format("is not greyscale of 8 or 16 bits (it has {} bits{})", depth,
        png_get_color_type(reader.png, reader.info) & PNG_COLOR_MASK_COLOR ? " and colours" : ""));
  const size_t rowBytes = size_t{width} * static_cast<size_t>(depth / 8);
  std::vector<uint8_t> raw(rowBytes * height);
  std::vector<png_bytep> rows(height);
  for (size_t j = 0; j < height; ++j) rows[j] = raw.data() + j * rowBytes;
  if (!readRows(reader.png, reader.info, rows.data())) return refuse("is cut off or broken");
  auto picture = std::make_shared<GreyPicture>();
  picture->width = static_cast<int>(width);
  picture->height = static_cast<int>(height);
  picture->pixels.resize(size_t{width} * height);
  for (size_t i = 0; i < picture->pixels.size(); ++i)
    picture->pixels[i] =
        static_cast<uint16_t>(depth == 8 ? raw[i] * 257 : raw[2 * i] << 8 | raw[2 * i + 1]);
  DigestWriter digest;
  digest.u32(width).u32(height);
  digest.text({reinterpret_cast<const char*>(raw.data()), raw.size()});
  picture->digest = digest.finish();
  return std::shared_ptr<const GreyPicture>(std::move(picture));
}

}  // namespace acre
