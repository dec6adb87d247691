/// Files that are either written whole or not at all.
#pragma once

#include <cstdio>
#include <filesystem>
#include <initializer_list>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace acre {

/// Collects the new contents and puts them in the target's place on commit(). Until then, and when
/// anything fails, the old file is untouched. The contents are a file without a name on the
/// target's disk, so that nothing is left of them however the program ends; on disks that know no
/// such files they lie beside the target as NAME.….part. A target that is no regular file (a
/// device, a pipe) is written directly. A symbolic link stays a link; its target is replaced.
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
  Status commit() { return commit({this}); }
  /// The same for files that belong together: no target is replaced before all are on the disk.
  static Status commit(std::initializer_list<AtomicFile*> files);

  const std::string& name() const { return shown_; }

 private:
  AtomicFile() = default;
  /// A name beside the target that nobody else uses.
  std::filesystem::path besideTarget() const;
  Status flush();
  Status replace();
  Error fault(const char* doing) const;

  std::string shown_;  // As the user named it.
  std::filesystem::path target_;
  std::filesystem::path temporary_;  // While the contents have a name.
  bool direct_ = false;              // The target itself is written.
  std::FILE* file_ = nullptr;
};

/// A whole file at once.
Status writeFile(const std::filesystem::path& file, std::string_view text);

/// Refuses outputs that are one file with another of them or with an input: by what the names lead
/// to, links followed. Inputs that do not exist are passed over.
Status checkOutputs(const std::vector<std::filesystem::path>& outputs,
    const std::vector<std::filesystem::path>& inputs);

/// The whole file as text. Refuses directories, unreadable files and files above `limit` bytes.
Result<std::string> readWholeFile(const std::filesystem::path& file, uint64_t limit);

}  // namespace acre
