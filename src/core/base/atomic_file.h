/// Files that are either written whole or not at all.
#pragma once

#include <cstdio>
#include <filesystem>
#include <string>
#include <string_view>

#include "base/result.h"

namespace acre {

/// Collects the new contents beside the target and puts them in its place on commit(). Until then,
/// and when anything fails, the old file is untouched. A target that is no regular file (a device,
/// a pipe) is written directly. A symbolic link stays a link; its target is replaced.
class AtomicFile {
 public:
  static Result<AtomicFile> open(const std::filesystem::path& target);
  AtomicFile(AtomicFile&& other) noexcept;
  AtomicFile& operator=(AtomicFile&&) = delete;
  ~AtomicFile();  ///< Without commit(): removes what was collected.

  Status write(std::string_view bytes);

  /// The stream itself, for encoders that seek. Seeking fails when the target is a device or pipe.
  std::FILE* stream() { return file_; }

  /// Flushes to the disk and replaces the target.
  Status commit();

  const std::string& name() const { return shown_; }

 private:
  AtomicFile() = default;
  Error fault(const char* doing) const;

  std::string shown_;  // As the user named it.
  std::filesystem::path target_;
  std::filesystem::path temporary_;  // Empty when the target is written directly.
  std::FILE* file_ = nullptr;
};

/// The whole file as text. Refuses directories, unreadable files and files above `limit` bytes.
Result<std::string> readWholeFile(const std::filesystem::path& file, uint64_t limit);

}  // namespace acre
