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
    out.direct_ = true;
    out.file_ = std::fopen(target.c_str(), "wb");
    if (!out.file_) return out.fault("cannot open for writing");
    return out;
  }
  out.target_ = fs::is_symlink(fs::symlink_status(target, code))
                    ? fs::weakly_canonical(target, code)
                    : target;
  if (fs::exists(status) && ::access(out.target_.c_str(), W_OK) != 0)
    return out.fault("cannot open for writing");
  const fs::path folder = out.target_.has_parent_path() ? out.target_.parent_path() : ".";
  int handle = -1;
  if (::access("/proc/self/fd", X_OK) == 0)
    handle = ::open(folder.c_str(), O_RDWR | O_TMPFILE | O_CLOEXEC, 0666);
  if (handle < 0) {
    const fs::path temporary = out.besideTarget();
    handle = ::open(temporary.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    if (handle < 0) return out.fault("cannot open for writing");
    out.temporary_ = temporary;
  }
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
      direct_(other.direct_),
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

fs::path AtomicFile::besideTarget() const {
  static std::atomic<unsigned> counter{0};
  return fmt::format("{}.{}-{}.part", target_.string(), ::getpid(),
      counter.fetch_add(1, std::memory_order_relaxed));
}

/// Everything is on the disk, under a name of its own.
Status AtomicFile::flush() {
  if (std::fflush(file_) != 0) return fault("cannot write");
  if (!direct_ && ::fsync(::fileno(file_)) != 0) return fault("cannot write");
  if (!direct_ && temporary_.empty()) {
    const fs::path temporary = besideTarget();
    const std::string self = fmt::format("/proc/self/fd/{}", ::fileno(file_));
    if (::linkat(AT_FDCWD, self.c_str(), AT_FDCWD, temporary.c_str(), AT_SYMLINK_FOLLOW) != 0)
      return fault("cannot write");
    temporary_ = temporary;
  }
  return std::fclose(std::exchange(file_, nullptr)) == 0 ? done() : fault("cannot write");
}

Status AtomicFile::replace() {
  if (direct_) return done();
  if (std::rename(temporary_.c_str(), target_.c_str()) != 0) return fault("cannot replace");
  temporary_.clear();
  return done();
}

Status AtomicFile::commit(std::initializer_list<AtomicFile*> files) {
  for (AtomicFile* file : files)
    if (const Status flushed = file->flush(); !flushed) return flushed;
  for (AtomicFile* file : files)
    if (const Status replaced = file->replace(); !replaced) return replaced;
  return done();
}

Status writeFile(const fs::path& file, std::string_view text) {
  auto out = AtomicFile::open(file);
  if (!out) return out.error();
  if (Status written = out->write(text); !written) return written;
  return out->commit();
}

Status checkOutputs(const std::vector<fs::path>& outputs, const std::vector<fs::path>& inputs) {
  const auto same = [](const fs::path& a, const fs::path& b) {
    std::error_code none;
    if (fs::is_character_file(a, none)) return false;  // Whatever is written to /dev/null.
    if (fs::exists(a, none) && fs::exists(b, none)) return fs::equivalent(a, b, none);
    return fs::weakly_canonical(fs::absolute(a, none), none) ==
           fs::weakly_canonical(fs::absolute(b, none), none);
  };
  for (size_t i = 0; i < outputs.size(); ++i) {
    for (const fs::path& input : inputs)
      if (same(outputs[i], input))
        return invalidInput("the result would replace " + input.string() + ", which is read",
            outputs[i].string(), "another file");
    for (size_t k = 0; k < i; ++k)
      if (same(outputs[i], outputs[k]))
        return invalidInput("two results would go to one file", outputs[i].string(),
            "another file for one of them");
  }
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
