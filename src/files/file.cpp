#include "files/file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <climits>
#include <cstdio>
#include <cstring>
#include <optional>
#include <utility>

#include "files/unfinished.hpp"
#include "lattice/text/error.hpp"
#include "tensor/memory.hpp"
#include "text/typed.hpp"

namespace lattice {
namespace {

namespace fs = std::filesystem;

/// An open file.
class Descriptor {
 public:
  explicit Descriptor(int file) : file_(file) {}
  Descriptor(const Descriptor&) = delete;
  Descriptor& operator=(const Descriptor&) = delete;
  ~Descriptor() {
    if (file_ >= 0) close(file_);
  }
  [[nodiscard]] int get() const { return file_; }
  [[nodiscard]] bool is_open() const { return file_ >= 0; }
  [[nodiscard]] bool shut() { return close(std::exchange(file_, -1)) == 0; }

 private:
  int file_;
};

// Reading

/// How long a pipe that nobody writes to is waited for, in rounds of 50 ms.
constexpr int most_rounds = 40;
constexpr int round_ms = 50;

/// What a file can have at most: it becomes numbers and names of many times its size.
std::size_t most_bytes() {
  return machine_bytes() / 16;
}

FileError unreadable(const fs::path& path, std::string_view expected, const std::string& reason) {
  return FileError({.what = fmt::format("cannot read {}", path.string()),
                    .expected = std::string(expected),
                    .found = reason,
                    .remedy = "check the path; it is taken from the folder you are in"});
}

std::string size_in_words(std::size_t bytes) {
  return fmt::format("{:.1f} GB", static_cast<double>(bytes) / 1e9);
}

/// Why a file of a kind is not read; empty for a file and a pipe.
std::string why_not(const struct stat& kind) {
  if (S_ISDIR(kind.st_mode)) return "a folder";
  if (S_ISCHR(kind.st_mode) || S_ISBLK(kind.st_mode)) return "a device, which may never end";
  if (S_ISSOCK(kind.st_mode)) return "a socket";
  if (static_cast<std::size_t>(kind.st_size) > most_bytes()) {
    return fmt::format("{}; more than {} would not fit into memory as numbers",
                       size_in_words(static_cast<std::size_t>(kind.st_size)),
                       size_in_words(most_bytes()));
  }
  return "";
}

// Writing

FileError unwritable(const fs::path& path, std::string found,
                     std::string expected = "a place that can be written to",
                     std::string remedy = "") {
  return FileError({.what = fmt::format("cannot write {}", path.string()),
                    .expected = std::move(expected),
                    .found = std::move(found),
                    .remedy = std::move(remedy)});
}

FileError unwritable(const fs::path& path, int problem) {
  return unwritable(path, std::strerror(problem));
}

/// How a path is written to.
struct Target {
  enum class How : std::uint8_t {
    replaced,  ///< by a new file, or made
    in_place,  ///< it has several names, and keeps them
    through,   ///< a device or a pipe
    already    ///< it is open: it is what an output of the program goes to
  };
  How how = How::replaced;
  fs::path path;                    ///< where links lead to
  std::optional<mode_t> mode = {};  ///< of the file that is there
  int open_as = -1;                 ///< the descriptor of what is open already
};

/// The end of a chain of links whose last one leads to nothing.
fs::path end_of_links(fs::path path) {
  constexpr int most_links = 40;
  std::error_code problem;
  for (int link = 0; link < most_links && fs::is_symlink(fs::symlink_status(path, problem)); ++link)
    path = path.parent_path() / fs::read_symlink(path, problem);
  return path;
}

fs::path folder_of(const fs::path& path) {
  return path.has_parent_path() ? path.parent_path() : fs::path(".");
}

/// The descriptor of an output of the program that goes to this file; −1 where none does.
int output_to(const struct stat& file) {
  for (const int output : {STDOUT_FILENO, STDERR_FILENO}) {
    struct stat other {};
    if (fstat(output, &other) == 0 && other.st_dev == file.st_dev && other.st_ino == file.st_ino)
      return output;
  }
  return -1;
}

/// What a file beside this one is called: cut short, so that no name gets too long.
std::string stem_of(const fs::path& path) {
  constexpr std::size_t for_ending = 32;
  const std::string name = path.filename().string();
  const long longest = pathconf(folder_of(path).c_str(), _PC_NAME_MAX);
  const std::size_t room = longest > 64 ? static_cast<std::size_t>(longest) : NAME_MAX;
  return name.substr(0, room - for_ending);
}

/// What the name of a file beside another goes on with and ends in. Nobody calls a file of their
/// own so, since one of these that is left over is taken away.
constexpr std::string_view beside_mark = ".unfinished-";
constexpr std::string_view beside_ending = ".part";

void check_folder(const fs::path& asked, const fs::path& path) {
  const fs::path folder = folder_of(path);
  struct stat there {};
  if (stat(folder.c_str(), &there) != 0) {
    throw unwritable(asked, fmt::format("{}: {}", folder.string(), std::strerror(errno)),
                     "a folder that is there",
                     errno == ENOENT ? "mkdir -p " + typed(folder.string()) : "");
  }
  if (!S_ISDIR(there.st_mode))
    throw unwritable(asked, folder.string() + " is not a folder", "a folder that is there");
  if (access(folder.c_str(), W_OK | X_OK) != 0)
    throw unwritable(asked, fmt::format("{}: {}", folder.string(), std::strerror(errno)));
  const std::string name = path.filename().string();
  const long longest = pathconf(folder.c_str(), _PC_NAME_MAX);
  if (longest > 0 && std::ssize(name) > longest) {
    throw unwritable(asked, fmt::format("a name of {} bytes", name.size()),
                     fmt::format("a name of at most {} bytes", longest));
  }
  constexpr std::size_t for_beside = 40;
  if (path.string().size() + for_beside > PATH_MAX) {
    throw unwritable(asked, fmt::format("a path of {} bytes", path.string().size()),
                     fmt::format("a path of at most {} bytes", PATH_MAX - for_beside));
  }
}

Target target_of(const fs::path& path) {
  if (path.empty() || !path.has_filename()) {
    throw unwritable(path.empty() ? fs::path("''") : path, path.empty() ? "no name" : "a folder",
                     "the name of a file");
  }
  struct stat there {};
  if (stat(path.c_str(), &there) != 0) {
    const int problem = errno;
    check_folder(path, end_of_links(path));
    if (problem != ENOENT) throw unwritable(path, problem);
    return {.path = end_of_links(path)};
  }
  if (S_ISDIR(there.st_mode)) throw unwritable(path, "a folder", "the name of a file");
  if (const int output = output_to(there); output >= 0)
    return {.how = Target::How::already, .path = path, .open_as = output};
  if (access(path.c_str(), W_OK) != 0) throw unwritable(path, errno);
  if (!S_ISREG(there.st_mode)) return {.how = Target::How::through, .path = path};
  std::error_code problem;
  fs::path real = fs::canonical(path, problem);
  if (problem) throw unwritable(path, problem.value());
  check_folder(path, real);
  return {.how = there.st_nlink > 1 ? Target::How::in_place : Target::How::replaced,
          .path = std::move(real),
          .mode = there.st_mode & 07777U};
}

void write_all(int file, std::string_view content, const fs::path& path) {
  while (!content.empty()) {
    const ssize_t written = ::write(file, content.data(), content.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) throw unwritable(path, errno);
    content.remove_prefix(static_cast<std::size_t>(written));
  }
}

/// A new file beside another, and gone again unless it takes its place. Who writes it holds a lock
/// on it, so that what is left half written by somebody who was killed can be told from it.
class Beside {
 public:
  explicit Beside(const Target& target) : target_(target), unfinished_(free_name(target.path)) {
    if (!file_->is_open()) throw unwritable(target_.path, problem_);
    flock(file_->get(), LOCK_EX | LOCK_NB);
    if (target_.mode && fchmod(file_->get(), *target_.mode) != 0)
      throw unwritable(target_.path, errno);
  }

  void write(std::string_view content) {
    write_all(file_->get(), content, target_.path);
    if (fsync(file_->get()) != 0) throw unwritable(target_.path, errno);
  }

  /// The content has reached the disk before the name does.
  void take_place() {
    if (!file_->shut()) throw unwritable(target_.path, errno);
    if (std::rename(unfinished_.path().c_str(), target_.path.c_str()) != 0)
      throw unwritable(target_.path, errno);
    unfinished_.finish();
  }

  /// Stays as it is, and gives its name.
  std::string stay() {
    std::string name = unfinished_.path();
    unfinished_.finish();
    return name;
  }

 private:
  /// Opens a file that is not there yet, and gives its name.
  std::string free_name(const fs::path& path) {
    const std::string stem = (folder_of(path) / stem_of(path)).string();
    for (int number = 0;; ++number) {
      std::string name =
          fmt::format("{}{}{}-{}{}", stem, beside_mark, getpid(), number, beside_ending);
      file_.emplace(open(name.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666));
      problem_ = errno;
      if (file_->is_open()) return name;
      if (problem_ != EEXIST) return "";
    }
  }

  const Target& target_;
  std::optional<Descriptor> file_ = std::nullopt;
  int problem_ = 0;
  Unfinished unfinished_;
};

/// Fills a file anew where it is.
void fill(const Target& target, std::string_view content) {
  Descriptor file(open(target.path.c_str(), O_WRONLY | O_CLOEXEC));
  if (!file.is_open()) throw unwritable(target.path, errno);
  write_all(file.get(), content, target.path);
  const auto size = static_cast<off_t>(content.size());
  if (ftruncate(file.get(), size) != 0 || fsync(file.get()) != 0 || !file.shut())
    throw unwritable(target.path, errno);
}

/// Writes to a device or a pipe. A pipe that nobody reads is not waited for.
void write_through(const fs::path& path, std::string_view content) {
  Descriptor file(open(path.c_str(), O_WRONLY | O_CLOEXEC | O_NOCTTY | O_NONBLOCK));
  if (!file.is_open()) {
    if (errno == ENXIO) throw unwritable(path, "a pipe without a reader");
    throw unwritable(path, errno);
  }
  fcntl(file.get(), F_SETFL, 0);
  write_all(file.get(), content, path);
  if (!file.shut()) throw unwritable(path, errno);
}

}  // namespace

std::string read_file(const fs::path& path, std::string_view expected) {
  const Descriptor file(open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC | O_NOCTTY));
  if (!file.is_open()) throw unreadable(path, expected, std::strerror(errno));
  struct stat kind {};
  if (fstat(file.get(), &kind) != 0) throw unreadable(path, expected, std::strerror(errno));
  if (const std::string reason = why_not(kind); !reason.empty())
    throw unreadable(path, expected, reason);
  std::string text;
  if (S_ISREG(kind.st_mode) && kind.st_size > 0)
    text.reserve(std::min(most_bytes(), static_cast<std::size_t>(kind.st_size)));
  std::array<char, 1U << 16U> piece;
  for (int round = 0;;) {
    const ssize_t count = read(file.get(), piece.data(), piece.size());
    if (count > 0) {
      text.append(piece.data(), static_cast<std::size_t>(count));
      if (text.size() > most_bytes())
        throw unreadable(path, expected, "more than " + size_in_words(most_bytes()));
    } else if (count < 0 && errno == EAGAIN && S_ISREG(kind.st_mode)) {
      // What the system writes there as it comes: it has no end.
      throw unreadable(path, expected, "what is still being written, and never ends");
    } else if (count < 0 && errno == EAGAIN) {
      pollfd wait{file.get(), POLLIN, 0};
      poll(&wait, 1, -1);
    } else if (count < 0 && errno != EINTR) {
      throw unreadable(path, expected, std::strerror(errno));
    } else if (count == 0) {
      const bool is_awaited = S_ISFIFO(kind.st_mode) && text.empty();
      if (!is_awaited) return text;
      if (++round > most_rounds) throw unreadable(path, expected, "a pipe without a writer");
      poll(nullptr, 0, round_ms);
    }
  }
}

bool is_folder(const fs::path& path) {
  std::error_code problem;
  return fs::is_directory(path, problem);
}

bool is_plain_file(const fs::path& path) {
  std::error_code problem;
  return fs::is_regular_file(path, problem);
}

std::string first_bytes(const fs::path& path, std::size_t count) {
  const Descriptor file(open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC | O_NOCTTY));
  struct stat kind {};
  if (!file.is_open() || fstat(file.get(), &kind) != 0 || !S_ISREG(kind.st_mode)) return "";
  std::string bytes(count, '\0');
  std::size_t had = 0;
  while (had < count) {
    const ssize_t more = read(file.get(), bytes.data() + had, count - had);
    if (more < 0 && errno == EINTR) continue;
    if (more <= 0) break;
    had += static_cast<std::size_t>(more);
  }
  bytes.resize(had);
  return bytes;
}

void write_file(const fs::path& path, std::string_view content) {
  const Target target = target_of(path);
  switch (target.how) {
    case Target::How::replaced: {
      Beside beside(target);
      beside.write(content);
      beside.take_place();
      break;
    }
    case Target::How::in_place: {
      Beside beside(target);
      beside.write(content);
      try {
        fill(target, content);
      } catch (const FileError& error) {
        Trouble trouble = error.trouble();
        trouble.remedy = fmt::format("the whole new content is in {}", beside.stay());
        throw FileError(trouble);
      }
      break;
    }
    case Target::How::through:
      write_through(target.path, content);
      break;
    case Target::How::already:
      write_all(target.open_as, content, path);
      break;
  }
}

void check_place_for_file(const fs::path& path) {
  static_cast<void>(target_of(path));
}

std::vector<std::string> take_leftovers_away(const fs::path& path) {
  std::vector<std::string> taken;
  const fs::path real = end_of_links(path);
  const std::string stem = stem_of(real) + std::string(beside_mark);
  std::error_code problem;
  for (fs::directory_iterator each(folder_of(real), problem), end; !problem && each != end;
       each.increment(problem)) {
    const std::string name = each->path().filename().string();
    if (!name.starts_with(stem) || !name.ends_with(beside_ending)) continue;
    const std::string_view number = std::string_view(name).substr(
        stem.size(), name.size() - std::min(name.size(), stem.size() + beside_ending.size()));
    const std::size_t dash = number.find('-');
    const auto is_count = [](std::string_view text) {
      return !text.empty() && text.find_first_not_of("0123456789") == std::string_view::npos;
    };
    if (dash == std::string_view::npos || !is_count(number.substr(0, dash)) ||
        !is_count(number.substr(dash + 1)))
      continue;
    const Descriptor file(
        open(each->path().c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK));
    struct stat kind {};
    const bool is_file = file.is_open() && fstat(file.get(), &kind) == 0 && S_ISREG(kind.st_mode);
    const bool is_left = is_file && flock(file.get(), LOCK_EX | LOCK_NB) == 0;
    if (is_left && unlink(each->path().c_str()) == 0) taken.push_back(each->path().string());
  }
  return taken;
}

bool is_same_file(const fs::path& a, const fs::path& b) {
  std::error_code problem;
  if (fs::equivalent(a, b, problem)) return true;
  const fs::path to_a = fs::weakly_canonical(end_of_links(a), problem);
  if (problem) return false;
  return to_a == fs::weakly_canonical(end_of_links(b), problem) && !problem;
}

}  // namespace lattice
