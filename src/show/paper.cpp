#include <fmt/format.h>
#include <unistd.h>

#include <array>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "files/file.hpp"
#include "lattice/show/page.hpp"
#include "lattice/text/error.hpp"
#include "show/passing_file.hpp"
#include "show/program.hpp"

namespace lattice {
namespace {

/// The browsers that print without a window, by the names of their programs.
constexpr std::array<std::string_view, 5> browsers = {
    "chromium", "chromium-browser", "google-chrome", "google-chrome-stable", "microsoft-edge"};

std::string browser() {
  for (const std::string_view name : browsers) {
    if (is_program(name)) return std::string(name);
  }
  throw ProgramError(
      {.what = "there is no browser here that prints a page by itself",
       .expected = "chromium, of the Debian package chromium",
       .found = "none on the path",
       .remedy = "apt-get install chromium; or --html, and print it from any browser"});
}

/// The address of a file. Source: RFC 3986, 2.1, and RFC 8089.
std::string address_of_file(const std::filesystem::path& path) {
  std::string address = "file://";
  for (const char letter : std::filesystem::absolute(path).string()) {
    const auto byte = static_cast<unsigned char>(letter);
    const bool is_plain = (byte >= 'a' && byte <= 'z') || (byte >= 'A' && byte <= 'Z') ||
                          (byte >= '0' && byte <= '9') || byte == '/' || byte == '.' ||
                          byte == '-' || byte == '_';
    address += is_plain ? std::string(1, letter) : fmt::format("%{:02X}", byte);
  }
  return address;
}

/// A profile of its own, so that the browser of whoever sits here is left alone. Gone when this is.
class PassingProfile {
 public:
  explicit PassingProfile(std::filesystem::path path) : path_(std::move(path)) {}
  PassingProfile(const PassingProfile&) = delete;
  PassingProfile& operator=(const PassingProfile&) = delete;
  ~PassingProfile() {
    std::error_code problem;
    std::filesystem::remove_all(path_, problem);
  }

  [[nodiscard]] std::string path() const { return path_.string(); }

 private:
  std::filesystem::path path_;
};

}  // namespace

void write_pdf(const std::filesystem::path& path, const WorkedExample& example,
               const PageSettings& settings) {
  const std::string program = browser();
  const PassingFile html("page.html");
  const PassingFile pdf("page.pdf");
  const PassingProfile profile(std::filesystem::path(pdf.path()).parent_path() / "profile");
  write_page(html.path(), example, settings);
  std::vector<std::string> command = {
      program, "--headless", "--disable-gpu", "--disable-extensions",
      "--disable-background-networking", "--no-first-run",
      // It asks nothing and nobody while it prints.
      "--host-resolver-rules=MAP * ~NOTFOUND", "--user-data-dir=" + profile.path(),
      "--no-pdf-header-footer", "--print-to-pdf=" + pdf.path()};
  // The system account has no sandbox to run it in.
  if (geteuid() == 0) command.emplace_back("--no-sandbox");
  command.push_back(address_of_file(html.path()));
  static_cast<void>(run_program(command, "", program));
  const std::string printed =
      std::filesystem::exists(pdf.path()) ? read_file(pdf.path(), "a printed page") : "";
  write_file(path, whole_picture(printed, program, ".pdf"));
}

}  // namespace lattice
