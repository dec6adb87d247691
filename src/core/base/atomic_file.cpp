#include "base/atomic_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <fstream>

namespace acre {
namespace fs = std::filesystem;

Error AtomicFile::fault(const char* doing) const {
  return {Error::Code::Io, fmt::format("{}: {}", doing, std::strerror(errno)), shown_,
          "a file that can be written, on a disk with room"};
}

Result<AtomicFile> AtomicFile::open(const fs::path& target) {
  AtomicFile out;
  out.shown_ = target.string();
  std::error_code code;
  const fs::file_status status = fs::status(target, code);
  if (fs::is_directory(status))
    return Error{Error::Code::Io, "this is a directory", out.shown_, "the name of a file"};
  if (fs::exists(status) && !fs::is_regular_file(status)) {
    out.target_ = target;
    out.file_ = std::fopen(target.c_str(), "wb");
    if (!out.file_) return out.fault("cannot open for writing");
    return out;
  }
  out.target_ = fs::is_symlink(fs::symlink_status(target, code))
                    ? fs::weakly_canonical(target, code)
                    : target;
  if (fs::exists(status) && ::access(out.target_.c_str(), W_OK) != 0)
    return out.fault("cannot open for writing");
  static std::atomic<unsigned> counter{0};
  const fs::path temporary = fmt::format("{}.{}-{}.part", out.target_.string(), ::getpid(),
                                         counter.fetch_add(1, std::memory_order_relaxed));
  const int handle = ::open(temporary.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
  if (handle < 0) return out.fault("cannot open for writing");
  out.temporary_ = temporary;
  struct stat old {};
  if (::stat(out.target_.c_str(), &old) == 0) ::fchmod(handle, old.st_mode & 07777u);
  out.file_ = ::fdopen(handle, "w+b");
  if (!out.file_) return out.fault("cannot open for writing");
  return out;
}

AtomicFile::AtomicFile(AtomicFile&& other) noexcept
    : shown_(std::move(other.shown_)),
      target_(std::move(other.target_)),
      temporary_(std::move(other.temporary_)),
      file_(std::exchange(other.file_, nullptr)) {
  other.temporary_.clear();
}

AtomicFile::~AtomicFile() {
  if (file_) std::fclose(file_);
  std::error_code ignored;
  if (!temporary_.empty()) fs::remove(temporary_, ignored);
}

Status AtomicFile::write(std::string_view bytes) {
  if (std::fwrite(bytes.data(), 1, bytes.size(), file_) != bytes.size())
    return fault("cannot write");
  return done();
}

Status AtomicFile::commit() {
  if (std::fflush(file_) != 0) return fault("cannot write");
  if (!temporary_.empty() && ::fsync(::fileno(file_)) != 0) return fault("cannot write");
  const int closed = std::fclose(std::exchange(file_, nullptr));
  if (closed != 0) return fault("cannot write");
  if (temporary_.empty()) return done();
  if (std::rename(temporary_.c_str(), target_.c_str()) != 0) return fault("cannot replace");
  temporary_.clear();
  return done();
}

Result<std::string> readWholeFile(const fs::path& file, uint64_t limit) {
  const std::string shown = file.string();
  std::error_code code;
  const fs::file_status status = fs::status(file, code);
  if (!fs::exists(status))
    return Error{Error::Code::NotFound, "there is no such file", shown, "an existing file"};
  if (!fs::is_regular_file(status))
    return Error{Error::Code::Io, fs::is_directory(status) ? "this is a directory" : "not a file",
                 shown, "a regular file"};
  std::ifstream in(file, std::ios::binary);
  std::string text;
  char buffer[65536];
  while (in && text.size() <= limit) {
    in.read(buffer, sizeof buffer);
    text.append(buffer, static_cast<size_t>(in.gcount()));
  }
  if (text.size() > limit)
    return Error{Error::Code::InvalidInput, "the file is too large", shown,
                 fmt::format("at most {} bytes", limit)};
  if (!in.eof()) return Error{Error::Code::Io, "cannot be read", shown, "a readable file"};
  return text;
}

}  // namespace acre
