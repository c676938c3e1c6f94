/*
 * Put before a program's own libraries, this lets one thing that it asks of the machine fail, once its
 * main has begun: FAIL_ALLOCATION=n the n-th piece of memory, FAIL_WRITE=n the n-th thing it does to a
 * file: write, push to the disk, rename; FAIL_THREAD=n the n-th thread and all after it. With
 * FAIL_TALLY=file, where all goes well, the pieces of memory and things done to files are counted, and
 * both numbers written there in the end. What the program starts is left alone.
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <limits.h>
#include <pthread.h>
#include <stdatomic.h>
#include <stddef.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/types.h>
#include <unistd.h>

static atomic_long allocations = -1; /* left until one fails; -1 for none */
static atomic_long writes = -1;
static atomic_long threads = -1;

static int fails(atomic_long* left) {
  return atomic_load(left) > 0 && atomic_fetch_sub(left, 1) == 1;
}

static void* next_called(const char* name) {
  return dlsym(RTLD_NEXT, name);
}

extern void* __libc_malloc(size_t);
extern void* __libc_calloc(size_t, size_t);
extern void* __libc_realloc(void*, size_t);
extern void* __libc_memalign(size_t, size_t);

static void* none(void) {
  errno = ENOMEM;
  return NULL;
}

void* malloc(size_t size) {
  return fails(&allocations) ? none() : __libc_malloc(size);
}

void* calloc(size_t count, size_t size) {
  return fails(&allocations) ? none() : __libc_calloc(count, size);
}

void* realloc(void* block, size_t size) {
  return fails(&allocations) ? none() : __libc_realloc(block, size);
}

void* aligned_alloc(size_t alignment, size_t size) {
  return fails(&allocations) ? none() : __libc_memalign(alignment, size);
}

/* To standard error something can always be said. */
ssize_t write(int file, const void* bytes, size_t count) {
  static ssize_t (*real)(int, const void*, size_t);
  if (!real) *(void**)&real = next_called("write");
  if (file != STDERR_FILENO && fails(&writes)) {
    errno = ENOSPC;
    return -1;
  }
  return real(file, bytes, count);
}

size_t fwrite(const void* bytes, size_t size, size_t count, FILE* file) {
  static size_t (*real)(const void*, size_t, size_t, FILE*);
  if (!real) *(void**)&real = next_called("fwrite");
  if (file != stderr && fails(&writes)) {
    errno = ENOSPC;
    return 0;
  }
  return real(bytes, size, count, file);
}

int fsync(int file) {
  static int (*real)(int);
  if (!real) *(void**)&real = next_called("fsync");
  if (fails(&writes)) {
    errno = EIO;
    return -1;
  }
  return real(file);
}

int rename(const char* from, const char* to) {
  static int (*real)(const char*, const char*);
  if (!real) *(void**)&real = next_called("rename");
  if (fails(&writes)) {
    errno = EACCES;
    return -1;
  }
  return real(from, to);
}

int pthread_create(pthread_t* thread, const pthread_attr_t* how, void* (*work)(void*), void* with) {
  static int (*real)(pthread_t*, const pthread_attr_t*, void* (*)(void*), void*);
  if (!real) *(void**)&real = next_called("pthread_create");
  if (atomic_load(&threads) >= 0 && atomic_fetch_sub(&threads, 1) <= 1) {
    atomic_store(&threads, 0);
    return EAGAIN;
  }
  return real(thread, how, work, with);
}

static int (*real_main)(int, char**, char**);

static int main_that_fails(int count, char** arguments, char** environment) {
  const char* allocation = getenv("FAIL_ALLOCATION");
  const char* written = getenv("FAIL_WRITE");
  const char* started = getenv("FAIL_THREAD");
  const char* tally = getenv("FAIL_TALLY");
  unsetenv("LD_PRELOAD");
  if (started) atomic_store(&threads, atol(started));
  if (written) atomic_store(&writes, atol(written));
  if (allocation) atomic_store(&allocations, atol(allocation));
  if (!tally) return real_main(count, arguments, environment);
  atomic_store(&allocations, LONG_MAX);
  atomic_store(&writes, LONG_MAX);
  const int status = real_main(count, arguments, environment);
  const long taken = LONG_MAX - atomic_load(&allocations);
  const long done = LONG_MAX - atomic_load(&writes);
  FILE* file = fopen(tally, "w");
  if (!file || fprintf(file, "%ld %ld\n", taken, done) < 0 || fclose(file) != 0) return 1;
  return status;
}

int __libc_start_main(int (*program)(int, char**, char**), int count, char** arguments,
                      void (*begin)(void), void (*end)(void), void (*unload)(void), void* stack) {
  int (*real)(int (*)(int, char**, char**), int, char**, void (*)(void), void (*)(void),
              void (*)(void), void*);
  *(void**)&real = next_called("__libc_start_main");
  real_main = program;
  return real(main_that_fails, count, arguments, begin, end, unload, stack);
}
