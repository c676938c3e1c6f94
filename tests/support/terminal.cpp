#include "support/terminal.hpp"

#include <fcntl.h>
#include <poll.h>
#include <pty.h>
#include <sys/ioctl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <cstring>

namespace lattice::testing {

Terminal::Terminal(const std::vector<std::string>& arguments, unsigned short columns) {
  std::vector<char*> words{const_cast<char*>(LATTICE_PROGRAM)};
  for (const std::string& argument : arguments)
    words.push_back(const_cast<char*>(argument.c_str()));
  words.push_back(nullptr);
  winsize size{.ws_row = 40, .ws_col = columns, .ws_xpixel = 0, .ws_ypixel = 0};
  command_ = forkpty(&screen_, nullptr, nullptr, &size);
  if (command_ == 0) {
    std::signal(SIGINT, SIG_DFL);  // What runs in the background ignores it, and hands that down.
    setenv("TERM", "xterm-256color", 1);
    unsetenv("NO_COLOR");
    execv(LATTICE_PROGRAM, words.data());
    _exit(127);
  }
}

Terminal::~Terminal() {
  if (command_ > 0) {
    kill(command_, SIGKILL);
    waitpid(command_, nullptr, 0);
  }
  close(screen_);
}

void Terminal::type(const std::string& line) {
  const std::string text = line + "\n";
  static_cast<void>(write(screen_, text.data(), text.size()));
}

void Terminal::press_control(char letter) {
  const char key = static_cast<char>(letter & 0x1F);
  static_cast<void>(write(screen_, &key, 1));
}

void Terminal::resize(unsigned short columns, unsigned short rows) {
  const winsize size{.ws_row = rows, .ws_col = columns, .ws_xpixel = 0, .ws_ypixel = 0};
  ioctl(screen_, TIOCSWINSZ, &size);
}

std::string Terminal::read_until(const std::string& text) {
  constexpr int patience = 20'000;
  std::string seen;
  while (seen.find(text) == std::string::npos) {
    pollfd wait{screen_, POLLIN, 0};
    if (poll(&wait, 1, patience) <= 0) break;
    std::array<char, 4096> buffer;
    const ssize_t count = read(screen_, buffer.data(), buffer.size());
    if (count <= 0) break;
    seen.append(buffer.data(), static_cast<std::size_t>(count));
  }
  return seen;
}

int Terminal::wait() {
  int status = 0;
  waitpid(command_, &status, 0);
  command_ = -1;
  return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

void AtTerminal::SetUp() {
  const int terminal = posix_openpt(O_RDWR | O_NOCTTY);
  if (terminal < 0)
    GTEST_SKIP() << "no pseudo-terminal can be opened here: " << std::strerror(errno);
  close(terminal);
}

}  // namespace lattice::testing
