#include "show/program.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

/// One end of a pipe.
class End {
 public:
  explicit End(int file) : file_(file) {}
  End(const End&) = delete;
  End& operator=(const End&) = delete;
  ~End() { shut(); }
  [[nodiscard]] int get() const { return file_; }
  [[nodiscard]] bool is_open() const { return file_ >= 0; }
  void shut() {
    if (file_ >= 0) close(std::exchange(file_, -1));
  }

 private:
  int file_;
};

struct Pipe {
  Pipe() : Pipe(made()) {}
  End read;
  End write;

 private:
  explicit Pipe(const std::array<int, 2>& ends) : read(ends[0]), write(ends[1]) {}
  static std::array<int, 2> made() {
    std::array<int, 2> ends{};
    if (pipe2(ends.data(), O_CLOEXEC) != 0) {
      throw ProgramError({.what = "no other program can be run", .found = std::strerror(errno)});
    }
    return ends;
  }
};

/// While one lives, a program that stops reading does not end this one.
class NoPipeSignal {
 public:
  NoPipeSignal() : before_(std::signal(SIGPIPE, SIG_IGN)) {}
  NoPipeSignal(const NoPipeSignal&) = delete;
  NoPipeSignal& operator=(const NoPipeSignal&) = delete;
  ~NoPipeSignal() { std::signal(SIGPIPE, before_); }

 private:
  void (*before_)(int);
};

pid_t start(const std::vector<std::string>& command, const Pipe& in, const Pipe& out,
            const Pipe& err, std::string_view package) {
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_adddup2(&actions, in.read.get(), STDIN_FILENO);
  posix_spawn_file_actions_adddup2(&actions, out.write.get(), STDOUT_FILENO);
  posix_spawn_file_actions_adddup2(&actions, err.write.get(), STDERR_FILENO);
  std::vector<std::string> words = command;
  std::vector<char*> arguments;
  arguments.reserve(words.size() + 1);
  for (std::string& word : words)
    arguments.push_back(word.data());
  arguments.push_back(nullptr);
  // What this program does not want to hear of, the other one still does.
  sigset_t as_usual;
  sigemptyset(&as_usual);
  sigaddset(&as_usual, SIGPIPE);
  sigaddset(&as_usual, SIGXFSZ);
  posix_spawnattr_t attributes;
  posix_spawnattr_init(&attributes);
  posix_spawnattr_setsigdefault(&attributes, &as_usual);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGDEF);
  pid_t process = 0;
  const int problem =
      posix_spawnp(&process, arguments[0], &actions, &attributes, arguments.data(), environ);
  posix_spawnattr_destroy(&attributes);
  posix_spawn_file_actions_destroy(&actions);
  if (problem != 0) {
    throw ProgramError(
        {.what = fmt::format("the program {} cannot be run", command.front()),
         .expected = fmt::format("{}, of the Debian package {}", command.front(), package),
         .found = std::strerror(problem),
         .remedy = fmt::format("apt-get install {}", package)});
  }
  return process;
}

/// Reads what there is; false at the end.
bool read_some(const End& from, std::string& into) {
  std::array<char, 65536> buffer;
  const ssize_t count = read(from.get(), buffer.data(), buffer.size());
  if (count < 0) return errno == EINTR || errno == EAGAIN;
  into.append(buffer.data(), static_cast<std::size_t>(count));
  return count > 0;
}

/// Writes and reads in turn, as the program is ready for it.
void exchange(Pipe& in, Pipe& out, Pipe& err, std::string_view input, std::string& answer,
              std::string& said) {
  fcntl(in.write.get(), F_SETFL, O_NONBLOCK);
  while (out.read.is_open() || err.read.is_open()) {
    std::array<pollfd, 3> waits = {
        {{in.write.get(), POLLOUT, 0}, {out.read.get(), POLLIN, 0}, {err.read.get(), POLLIN, 0}}};
    if (poll(waits.data(), waits.size(), -1) < 0) continue;
    if (waits[0].revents != 0) {
      const ssize_t count = write(in.write.get(), input.data(), input.size());
      if (count > 0) input.remove_prefix(static_cast<std::size_t>(count));
      if (input.empty() || (count < 0 && errno != EAGAIN && errno != EINTR)) in.write.shut();
    }
    if (waits[1].revents != 0 && !read_some(out.read, answer)) out.read.shut();
    if (waits[2].revents != 0 && !read_some(err.read, said)) err.read.shut();
  }
}

/// The last line of what a program said, without the place in its script, `"chart.gp" line 12: `: a
/// script of ours, that nobody has seen.
std::string reason_in(std::string_view said) {
  said = trimmed(said);
  if (const std::size_t end = said.rfind('\n'); end != std::string_view::npos)
    said.remove_prefix(end + 1);
  const std::size_t place = said.find("\" line ");
  const std::size_t colon = said.find(": ", place == std::string_view::npos ? said.size() : place);
  if (said.starts_with('"') && colon != std::string_view::npos) said.remove_prefix(colon + 2);
  return std::string(said);
}

/// What a picture begins and ends with, blanks aside.
struct Marks {
  std::string_view ending;
  std::string_view first;
  std::string_view last;
};
constexpr std::array<Marks, 4> marks = {{{".svg", "<?xml", "</svg>"},
                                         {".png", "\x89PNG\r\n\x1a\n", "IEND\xAE\x42\x60\x82"},
                                         {".gif", "GIF8", ";"},
                                         {".pdf", "%PDF-", "%%EOF"}}};

/// A text may hold `]]>` in XML nowhere but at the end of a CDATA section (XML 1.0, 2.4), and not
/// every program that draws knows.
std::string with_ends_of_sections(std::string_view svg) {
  constexpr std::string_view begin = "<![CDATA[";
  constexpr std::string_view end = "]]>";
  std::string text;
  bool is_inside = false;
  for (std::size_t at = 0; at < svg.size();) {
    const std::string_view rest = svg.substr(at);
    if (rest.starts_with(end)) {
      text += is_inside ? "]]>" : "]]&gt;";
      is_inside = false;
      at += end.size();
    } else {
      is_inside = is_inside || rest.starts_with(begin);
      text += svg[at++];
    }
  }
  return text;
}

}  // namespace

std::string run_program(const std::vector<std::string>& command, std::string_view input,
                        std::string_view package) {
  const NoPipeSignal quiet;
  Pipe in;
  Pipe out;
  Pipe err;
  const pid_t process = start(command, in, out, err, package);
  in.read.shut();
  out.write.shut();
  err.write.shut();
  std::string answer;
  std::string said;
  exchange(in, out, err, input, answer, said);
  int status = 0;
  while (waitpid(process, &status, 0) < 0 && errno == EINTR) {
  }
  if (!WIFEXITED(status) || WEXITSTATUS(status) != 0) {
    throw ProgramError(
        {.what = fmt::format("the program {} failed", command.front()), .found = reason_in(said)});
  }
  return answer;
}

bool is_program(std::string_view name) {
  const char* const all = std::getenv("PATH");
  std::string_view path = all == nullptr ? "" : all;
  while (!path.empty()) {
    const std::size_t end = std::min(path.find(':'), path.size());
    const std::string file = fmt::format("{}/{}", path.substr(0, end), name);
    if (end > 0 && access(file.c_str(), X_OK) == 0) return true;
    path.remove_prefix(std::min(end + 1, path.size()));
  }
  return false;
}

std::string whole_picture(const std::string& picture, std::string_view program,
                          std::string_view ending) {
  const Marks& mark = *std::ranges::find(marks, ending, &Marks::ending);
  if (!picture.starts_with(mark.first) || !trimmed(picture).ends_with(mark.last)) {
    throw ProgramError({.what = fmt::format("the program {} drew nothing", program),
                        .expected = fmt::format("a picture for a file that ends in {}", ending),
                        .found = picture.empty() ? "nothing" : "something else"});
  }
  return ending == ".svg" ? with_ends_of_sections(picture) : picture;
}

std::string drawn_by(const std::vector<std::string>& command, std::string_view input,
                     std::string_view package, std::string_view ending) {
  return whole_picture(run_program(command, input, package), command.front(), ending);
}

}  // namespace lattice
