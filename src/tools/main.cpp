#include <fcntl.h>
#include <sys/ioctl.h>
#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <exception>
#include <iostream>
#include <new>
#include <string_view>

#include "files/unfinished.hpp"
#include "tools/commands.hpp"
#include "tools/interrupt.hpp"
#include "tools/options.hpp"
#include "tools/outlet.hpp"
#include "tools/subjects.hpp"

namespace {

using lattice::tools::Exit;

bool colour_is_welcome() {
  const char* const no_color = std::getenv("NO_COLOR");
  const char* const terminal = std::getenv("TERM");
  const bool refused = no_color != nullptr && *no_color != '\0';
  const bool plain = terminal == nullptr || std::string_view(terminal) == "dumb";
  return isatty(STDOUT_FILENO) != 0 && !refused && !plain;
}

/// The columns of the terminal, as far as a page can be so narrow or wide.
std::size_t width_of_page() {
  winsize size{};
  if (isatty(STDOUT_FILENO) == 0 || ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) != 0 ||
      size.ws_col == 0)
    return lattice::page_width;
  using namespace lattice::tools;
  return static_cast<std::size_t>(
      std::clamp<std::int64_t>(size.ws_col, narrowest_page, widest_page));
}

/// Where the input or an output of the program was closed, a file that is opened would take its
/// place, and what is printed would end up in there. So something that cannot be written takes it.
void fill_closed_places() {
  for (int place = open("/dev/null", O_RDONLY); place >= 0; place = dup(place)) {
    if (place <= STDERR_FILENO) continue;
    close(place);
    return;
  }
}

/// Standard error as it was at the start: what is said on it later may be for other ears.
int last_words = STDERR_FILENO;

/// The last word, where there is no memory left to put one together.
void say(std::string_view sentence) {
  [[maybe_unused]] const ssize_t ignored = write(last_words, sentence.data(), sentence.size());
}

/// What an exception says that nobody caught, as on a thread.
void say_what_was_thrown() {
  const std::exception_ptr thrown = std::current_exception();
  if (!thrown) return;
  try {
    std::rethrow_exception(thrown);
  } catch (const std::bad_alloc&) {
    // What is said at every bad end says it.
  } catch (const std::exception& error) {
    say(error.what());
    say("\n");
  } catch (...) {
    say("something was thrown that is no error\n");
  }
}

/// What is done at a bad end, whatever comes after it.
void take_leave() {
  lattice::take_unfinished_away();
  say("the program cannot go on: not enough memory, or an internal error (a bug in Open "
      "Lattice)\n");
}

[[noreturn]] void give_up() {
  take_leave();
  _exit(static_cast<int>(Exit::our_fault));
}

#if !defined(LATTICE_WATCHES_MEMORY) && !defined(__SANITIZE_THREAD__)
/// True where somebody wants to look into what is left of a program that came to a bad end.
bool core_dumps_are_welcome() {
  rlimit limit{};
  return getrlimit(RLIMIT_CORE, &limit) == 0 && limit.rlim_cur > 0;
}

/// Has the same done where a library comes to a bad end: for want of memory, some do. It needs a
/// stack of its own, as there may be none left. Where core dumps are welcome, there is one.
void catch_bad_ends() {
  constexpr std::size_t enough = std::size_t{64} << 10U;
  static std::array<char, enough> stack;
  stack_t place{};
  place.ss_sp = stack.data();
  place.ss_size = stack.size();
  sigaltstack(&place, nullptr);
  struct sigaction action {};
  action.sa_handler = [](int) { give_up(); };
  action.sa_flags = SA_ONSTACK;
  if (core_dumps_are_welcome()) {
    // Once, and then as it would have ended: with a dump.
    action.sa_handler = [](int signal) {
      take_leave();
      raise(signal);
    };
    action.sa_flags = SA_ONSTACK | static_cast<int>(SA_RESETHAND);
  }
  for (const int signal : {SIGSEGV, SIGBUS, SIGABRT, SIGFPE, SIGILL})
    sigaction(signal, &action, nullptr);
}
#else
void catch_bad_ends() {}
#endif

}  // namespace

int main(int count, char** arguments) {
  using lattice::tools::Console;
  using lattice::tools::Outlet;
  std::set_terminate([] {
    say_what_was_thrown();
    give_up();
  });
  catch_bad_ends();
  fill_closed_places();
  if (const int copy = fcntl(STDERR_FILENO, F_DUPFD_CLOEXEC, 3); copy >= 0) last_words = copy;
  lattice::tools::handle_signals();
  lattice::tools::use_subjects();
  Outlet outlet(STDOUT_FILENO);
  std::ostream out(&outlet);
  Console console{.out = out,
                  .err = std::cerr,
                  .style = {.colour = colour_is_welcome(), .width = width_of_page()},
                  .err_is_terminal = isatty(STDERR_FILENO) != 0};
  Exit exit = lattice::tools::run({arguments + 1, arguments + count}, console);
  out.flush();
  // Who reads no further has seen enough.
  if (outlet.problem() != 0 && outlet.problem() != EPIPE) {
    const bool is_closed = outlet.problem() == EBADF;
    say("the output could not be written: ");
    say(is_closed ? "it is closed" : std::strerror(outlet.problem()));
    say("\n");
    exit = Exit::bad_input;
  }
  return static_cast<int>(exit);
}
