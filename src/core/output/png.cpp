#include "output/png.h"

#include <png.h>

#include <csetjmp>
#include <optional>

#include "base/atomic_file.h"

namespace acre {

struct PngWriter::State {
  std::optional<AtomicFile> file;
  png_structp png = nullptr;
  png_infop info = nullptr;
  PngPixels pixels = PngPixels::Rgb8;
  std::vector<uint8_t> row;
  std::optional<Error> fault;  // Of the file below libpng.
  std::string name;

  ~State() {
    if (png) png_destroy_write_struct(&png, info ? &info : nullptr);
  }

  Error error() const {
    if (fault) return *fault;
    return {Error::Code::Io, "the PNG encoder failed", name, "a picture of sensible size"};
  }

  bool keepFault(const Status& written) {
    if (!written) fault = written.error();
    return written.ok();
  }

  static void onWrite(png_structp png, png_bytep data, size_t size) {
    auto* self = static_cast<State*>(png_get_io_ptr(png));
    if (!self->keepFault(self->file->write({reinterpret_cast<const char*>(data), size})))
      png_error(png, "write");  // Jumps: nothing with a destructor may live here.
  }
  static void onFlush(png_structp) {}
  static void onError(png_structp png, png_const_charp) { std::longjmp(png_jmpbuf(png), 1); }
  static void onWarning(png_structp, png_const_charp) {}
};

namespace {

constexpr size_t kLongText = 1024;  // Those are compressed.

/// Everything that may jump stands in functions without destructors of their own.
bool writeHead(png_structp png, png_infop info, uint32_t width, uint32_t height, PngPixels pixels,
    const std::vector<png_text>& texts) {
  if (setjmp(png_jmpbuf(png))) return false;
  const bool colour = pixels == PngPixels::Rgb8;
  png_set_user_limits(png, 0x7FFFFFFF, 0x7FFFFFFF);
  png_set_IHDR(png, info, width, height, colour ? 8 : 16,
      colour ? PNG_COLOR_TYPE_RGB : PNG_COLOR_TYPE_GRAY, PNG_INTERLACE_NONE,
      PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
  png_set_compression_level(png, 1);  // Level 3 takes twice as long for a twentieth of the bytes.
  png_set_filter(png, 0, colour ? PNG_FILTER_SUB : PNG_FILTER_PAETH);
  png_set_text(png, info, texts.data(), static_cast<int>(texts.size()));
  png_write_info(png, info);
  return true;
}

bool writeRow(png_structp png, const uint8_t* row) {
  if (setjmp(png_jmpbuf(png))) return false;
  png_write_row(png, row);
  return true;
}

bool writeEnd(png_structp png, png_infop info) {
  if (setjmp(png_jmpbuf(png))) return false;
  png_write_end(png, info);
  return true;
}

}  // namespace

PngWriter::PngWriter() : state_(std::make_unique<State>()) {}
PngWriter::PngWriter(PngWriter&&) noexcept = default;
PngWriter& PngWriter::operator=(PngWriter&&) noexcept = default;
PngWriter::~PngWriter() = default;

Result<PngWriter> PngWriter::create(const std::filesystem::path& file, uint32_t width,
    uint32_t height, PngPixels pixels, const TextPairs& texts) {
  PngWriter writer;
  State& s = *writer.state_;
  auto opened = AtomicFile::open(file);
  if (!opened) return opened.error();
  s.file.emplace(std::move(*opened));
  s.name = file.string();
  s.pixels = pixels;
  s.row.resize(size_t{width} * (pixels == PngPixels::Rgb8 ? 3 : 2));
  std::vector<png_text> chunks(texts.size());
  for (size_t i = 0; i < texts.size(); ++i) {
    chunks[i].compression =
        texts[i].second.size() < kLongText ? PNG_ITXT_COMPRESSION_NONE : PNG_ITXT_COMPRESSION_zTXt;
    chunks[i].key = const_cast<char*>(texts[i].first.c_str());
    chunks[i].text = const_cast<char*>(texts[i].second.c_str());
    chunks[i].itxt_length = texts[i].second.size();
  }
  s.png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, State::onError, State::onWarning);
  if (s.png) s.info = png_create_info_struct(s.png);
  if (!s.info) return s.error();
  png_set_write_fn(s.png, &s, State::onWrite, State::onFlush);
  if (!writeHead(s.png, s.info, width, height, pixels, chunks)) return s.error();
  return writer;
}

Status PngWriter::rowRgb(const uint32_t* argb) {
  State& s = *state_;
  for (size_t i = 0; i < s.row.size() / 3; ++i) {
    s.row[3 * i] = static_cast<uint8_t>(argb[i] >> 16);
    s.row[3 * i + 1] = static_cast<uint8_t>(argb[i] >> 8);
    s.row[3 * i + 2] = static_cast<uint8_t>(argb[i]);
  }
  if (!writeRow(s.png, s.row.data())) return s.error();
  return done();
}

Status PngWriter::rowGrey(const uint16_t* values) {
  State& s = *state_;
  for (size_t i = 0; i < s.row.size() / 2; ++i) {
    s.row[2 * i] = static_cast<uint8_t>(values[i] >> 8);
    s.row[2 * i + 1] = static_cast<uint8_t>(values[i]);
  }
  if (!writeRow(s.png, s.row.data())) return s.error();
  return done();
}

Status PngWriter::finish() {
  State& s = *state_;
  if (!writeEnd(s.png, s.info)) return s.error();
  return s.file->commit();
}

Status writePicture(const std::filesystem::path& file, int32_t width, int32_t height,
    const std::vector<uint32_t>& argb, const TextPairs& texts) {
  auto png = PngWriter::create(
      file, static_cast<uint32_t>(width), static_cast<uint32_t>(height), PngPixels::Rgb8, texts);
  if (!png) return png.error();
  for (int32_t y = 0; y < height; ++y)
    if (Status row = png->rowRgb(argb.data() + ptrdiff_t{y} * width); !row) return row;
  return png->finish();
}

}  // namespace acre
