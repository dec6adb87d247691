#include "output/carried_recipe.h"

#include <fmt/format.h>
#include <png.h>

#include <array>
#include <csetjmp>
#include <cstdio>
#include <fstream>
#include <memory>
#include <optional>
#include <utility>

#include "base/atomic_file.h"
#include "world/demos.h"

namespace acre {
namespace {

constexpr std::string_view kPngBegins = "\x89PNG\r\n\x1a\n";
constexpr std::string_view kMetadata = "<metadata id=\"acre-recipe\">", kEnd = "</metadata>";
constexpr size_t kHead = 512;  // Bytes that tell what a file is.

constexpr std::array<std::pair<char, std::string_view>, 3> kEscapes = {
    std::pair{'&', std::string_view("&amp;")}, {'<', "&lt;"}, {'>', "&gt;"}};

std::string unescaped(std::string_view text) {
  std::string out;
  while (!text.empty()) {
    size_t taken = 1;
    char c = text.front();
    for (const auto& [plain, word] : kEscapes)
      if (text.starts_with(word)) {
        c = plain;
        taken = word.size();
      }
    out += c;
    text.remove_prefix(taken);
  }
  return out;
}

std::string headOf(const std::filesystem::path& file) {
  std::string head(kHead, '\0');
  std::ifstream in(file, std::ios::binary);
  in.read(head.data(), static_cast<std::streamsize>(head.size()));
  head.resize(static_cast<size_t>(in.gcount()));
  return head;
}

struct Reading {
  png_structp png = png_create_read_struct(
      PNG_LIBPNG_VER_STRING, nullptr,
      [](png_structp p, png_const_charp) { std::longjmp(png_jmpbuf(p), 1); },
      [](png_structp, png_const_charp) {});
  png_infop info = png ? png_create_info_struct(png) : nullptr;
  std::unique_ptr<std::FILE, int (*)(std::FILE*)> file{nullptr, std::fclose};
  ~Reading() { png_destroy_read_struct(&png, &info, nullptr); }
};

/// Up to the first pixels, before which texts stand. Nothing with a destructor lives here: it
/// jumps.
bool readHead(Reading& from) {
  if (setjmp(png_jmpbuf(from.png))) return false;
  png_set_user_limits(from.png, 0x7FFFFFFF, 0x7FFFFFFF);
  png_set_chunk_malloc_max(from.png, png_alloc_size_t{2} * kLargestRecipeFile);
  png_init_io(from.png, from.file.get());
  png_read_info(from.png, from.info);
  return true;
}

std::optional<std::string> textInPng(const std::filesystem::path& file) {
  Reading from;
  from.file.reset(std::fopen(file.c_str(), "rb"));
  if (!from.file || !from.info || !readHead(from)) return {};
  png_textp texts = nullptr;
  int count = 0;
  png_get_text(from.png, from.info, &texts, &count);
  for (int n = 0; n < count; ++n)
    if (std::string_view(texts[n].key) == kRecipeText) return std::string(texts[n].text);
  return {};
}

/// An SVG's metadata lies at its head, before the picture.
std::optional<std::string> textInSvg(const std::filesystem::path& file) {
  std::string head(2 * kLargestRecipeFile, '\0');
  std::ifstream in(file, std::ios::binary);
  in.read(head.data(), static_cast<std::streamsize>(head.size()));
  head.resize(static_cast<size_t>(in.gcount()));
  const size_t begin = head.find(kMetadata);
  if (begin == head.npos) return {};
  const size_t from = begin + kMetadata.size(), end = head.find(kEnd, from);
  if (end == head.npos) return {};
  return unescaped(std::string_view(head).substr(from, end - from));
}

}  // namespace

std::string xmlText(std::string_view text) {
  std::string out;
  for (const char c : text) {
    std::string_view as(&c, 1);
    for (const auto& [plain, word] : kEscapes)
      if (c == plain) as = word;
    out += as;
  }
  return out;
}

std::string svgMetadata(const Recipe& recipe) {
  return fmt::format("{}{}{}\n", kMetadata, xmlText(recipeToJson(recipe)), kEnd);
}

bool isPicture(const std::filesystem::path& file) {
  const std::string head = headOf(file);
  const size_t first = head.find_first_not_of(" \t\r\n");
  return head.starts_with(kPngBegins) ||
         (first != head.npos && head[first] == '<' && head.find("<svg") != head.npos);
}

Result<Recipe> recipeInPicture(
    const std::filesystem::path& file, const std::vector<Override>& overrides) {
  const std::string head = headOf(file);
  const auto text = head.starts_with(kPngBegins) ? textInPng(file) : textInSvg(file);
  if (!text)
    return invalidInput("this picture carries no recipe", file.string(),
        "a PNG or an SVG that Kindred Acre wrote, whole");
  return recipeFromJson(*text, file, overrides);
}

Result<Recipe> openRecipe(const std::string& fileOrDemo, const std::vector<Override>& overrides) {
  std::error_code none;
  if (std::filesystem::is_regular_file(fileOrDemo, none) && isPicture(fileOrDemo))
    return recipeInPicture(fileOrDemo, overrides);
  return loadRecipe(fileOrDemo, overrides);
}

}  // namespace acre
