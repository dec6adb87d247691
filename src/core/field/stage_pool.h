/// Where compiled parts of worlds are shared.
#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include "base/budget.h"
#include "base/hash.h"
#include "base/result.h"
#include "field/picture_data.h"

namespace acre {

/// Where compiled parts are looked up before they are made, and kept afterwards.
class StagePool {
 public:
  virtual ~StagePool() = default;
  virtual std::shared_ptr<const void> find(const Digest& key) = 0;
  /// linger: kept from going for a while, though no world holds it.
  virtual void keep(
      const Digest& key, const std::shared_ptr<const void>& part, bool linger = false) = 0;
  /// The picture in a file, read again only when the file changed.
  virtual Result<std::shared_ptr<const GreyPicture>> picture(
      const std::filesystem::path& file, const std::string& where) = 0;
  /// What each compiled part may remember.
  virtual MemoLimit memo() const { return {}; }
  /// Lets go of whatever is only kept because it may be asked for again.
  virtual void makeRoom() {}
};

/// The part of a key, taken from the pool or made: make() gives a Result<std::shared_ptr<const T>>.
/// The same key always means the same type.
template <class T, class Make>
Result<std::shared_ptr<const T>> pooled(
    StagePool& pool, const Digest& key, Make&& make, bool linger = false) {
  if (auto known = std::static_pointer_cast<const T>(pool.find(key))) return known;
  Result<std::shared_ptr<const T>> made = make();
  if (made) pool.keep(key, *made, linger);
  return made;
}

}  // namespace acre
