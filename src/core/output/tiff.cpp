#include "output/tiff.h"

#include <tiffio.h>

#include <optional>

#include "base/atomic_file.h"

namespace acre {

struct TiffWriter::State {
  std::optional<AtomicFile> file;
  TIFF* tiff = nullptr;
  uint32_t row = 0;
  uint32_t width = 0;
  std::string name;

  ~State() {
    if (tiff) TIFFClose(tiff);
  }
  Error error() const {
    return {Error::Code::Io, "cannot write", name, "a regular file on a disk with room"};
  }
};

namespace {

std::FILE* streamOf(thandle_t handle) {
  return static_cast<AtomicFile*>(handle)->stream();
}
tmsize_t onRead(thandle_t handle, void* data, tmsize_t size) {
  return static_cast<tmsize_t>(std::fread(data, 1, static_cast<size_t>(size), streamOf(handle)));
}
tmsize_t onWrite(thandle_t handle, void* data, tmsize_t size) {
  return static_cast<tmsize_t>(std::fwrite(data, 1, static_cast<size_t>(size), streamOf(handle)));
}
toff_t onSeek(thandle_t handle, toff_t offset, int whence) {
  std::FILE* stream = streamOf(handle);
  if (fseeko(stream, static_cast<off_t>(offset), whence) != 0) return static_cast<toff_t>(-1);
  return static_cast<toff_t>(ftello(stream));
}
int onClose(thandle_t) {
  return 0;
}
toff_t onSize(thandle_t handle) {
  std::FILE* stream = streamOf(handle);
  const off_t here = ftello(stream);
  fseeko(stream, 0, SEEK_END);
  const off_t end = ftello(stream);
  fseeko(stream, here, SEEK_SET);
  return static_cast<toff_t>(end);
}

}  // namespace

TiffWriter::TiffWriter(std::unique_ptr<State> state) : state_(std::move(state)) {}
TiffWriter::TiffWriter(TiffWriter&&) noexcept = default;
TiffWriter::~TiffWriter() = default;

Result<TiffWriter> TiffWriter::create(
    const std::filesystem::path& file, uint32_t width, uint32_t height, const TextPairs& texts) {
  TIFFSetErrorHandler(nullptr);  // Faults come back as results, not on standard error.
  TIFFSetWarningHandler(nullptr);
  auto out = AtomicFile::open(file);
  if (!out) return out.error();
  auto state = std::make_unique<State>();
  state->file.emplace(std::move(*out));
  state->name = file.string();
  state->width = width;
  const bool big = uint64_t{width} * height * sizeof(float) > (uint64_t{1} << 31);
  state->tiff = TIFFClientOpen(state->name.c_str(), big ? "w8" : "w", &*state->file, onRead,
      onWrite, onSeek, onClose, onSize, nullptr, nullptr);
  if (!state->tiff) return state->error();
  std::string description;
  for (const auto& [key, value] : texts) description += key + ": " + value + "\n";
  TIFF* t = state->tiff;
  const bool set = TIFFSetField(t, TIFFTAG_IMAGEWIDTH, width) == 1 &&
                   TIFFSetField(t, TIFFTAG_IMAGELENGTH, height) == 1 &&
                   TIFFSetField(t, TIFFTAG_BITSPERSAMPLE, 32) == 1 &&
                   TIFFSetField(t, TIFFTAG_SAMPLESPERPIXEL, 1) == 1 &&
                   TIFFSetField(t, TIFFTAG_SAMPLEFORMAT, SAMPLEFORMAT_IEEEFP) == 1 &&
                   TIFFSetField(t, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_MINISBLACK) == 1 &&
                   TIFFSetField(t, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG) == 1 &&
                   TIFFSetField(t, TIFFTAG_COMPRESSION, COMPRESSION_ADOBE_DEFLATE) == 1 &&
                   TIFFSetField(t, TIFFTAG_PREDICTOR, PREDICTOR_FLOATINGPOINT) == 1 &&
                   TIFFSetField(t, TIFFTAG_ROWSPERSTRIP, 64) == 1 &&
                   TIFFSetField(t, TIFFTAG_IMAGEDESCRIPTION, description.c_str()) == 1;
  if (!set) return state->error();
  return TiffWriter(std::move(state));
}

Status TiffWriter::row(const float* values) {
  std::vector<float> copy(values, values + state_->width);  // The predictor works in place.
  if (TIFFWriteScanline(state_->tiff, copy.data(), state_->row++, 0) != 1) return state_->error();
  return done();
}

Status TiffWriter::finish() {
  const bool written = TIFFWriteDirectory(state_->tiff) == 1 && TIFFFlush(state_->tiff) == 1;
  TIFFClose(state_->tiff);
  state_->tiff = nullptr;
  if (!written) return state_->error();
  return state_->file->commit();
}

}  // namespace acre
