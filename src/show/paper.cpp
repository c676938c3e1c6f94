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

/// Runs a browser, and takes its profile away when it ends, however that is. Where this program has
/// ended before, nobody waits for what was printed either.
constexpr std::string_view with_passing_profile =
    "profile=$1 waiting=$2 folder=$3\n"
    "shift 3\n"
    "trap 'rm -rf \"$profile\"; kill -0 \"$waiting\" 2>/dev/null || rm -rf \"$folder\"; "
    "rmdir \"$folder\" 2>/dev/null' EXIT\n"
    "trap 'exit 1' INT TERM HUP\n"
    "\"$@\"\n";

/// Has a browser run. It has a profile of its own, so that the browser of whoever sits here is left
/// alone.
void run_browser(const std::string& program, const std::vector<std::string>& options,
                 const std::filesystem::path& folder) {
  const std::string profile = folder / "profile";
  std::vector<std::string> command = {"sh",
                                      "-c",
                                      std::string(with_passing_profile),
                                      "sh",
                                      profile,
                                      std::to_string(getpid()),
                                      folder.string(),
                                      program,
                                      "--user-data-dir=" + profile};
  command.insert(command.end(), options.begin(), options.end());
  try {
    static_cast<void>(run_program(command, "", program));
  } catch (const ProgramError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("the program {} failed", program);
    throw ProgramError(trouble);
  }
}

}  // namespace

void write_pdf(const std::filesystem::path& path, const WorkedExample& example,
               const PageSettings& settings) {
  const std::string program = browser();
  const PassingFile html("page.html");
  const PassingFile pdf("page.pdf");
  write_page(html.path(), example, settings);
  std::vector<std::string> options = {"--headless", "--disable-gpu", "--disable-extensions",
                                      "--disable-background-networking", "--no-first-run",
                                      // It asks nothing and nobody while it prints.
                                      "--host-resolver-rules=MAP * ~NOTFOUND",
                                      "--no-pdf-header-footer", "--print-to-pdf=" + pdf.path()};
  // The system account has no sandbox to run it in.
  if (geteuid() == 0) options.emplace_back("--no-sandbox");
  options.push_back(address_of_file(html.path()));
  run_browser(program, options, std::filesystem::path(pdf.path()).parent_path());
  const std::string printed =
      std::filesystem::exists(pdf.path()) ? read_file(pdf.path(), "a printed page") : "";
  write_file(path, whole_picture(printed, program, ".pdf"));
}

}  // namespace lattice
