/*
 * Remembers what a process has written and not yet had put on disk, so that a cut of the power can be played: loaded
 * before the C library (LD_PRELOAD), it keeps beside each database file and its log what stood there before, until
 * that file is synchronised. Whoever plays the cut writes it back, the last first (powerCut.ts).
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <fcntl.h>
#include <pthread.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define MOST_FILES 4096

static pthread_mutex_t lock = PTHREAD_MUTEX_INITIALIZER;
/* Of each open file: 0 for not looked at, -1 for none of ours, else where its past is kept, and one. */
static int past_of[MOST_FILES];

#define ORIGINAL(type, name) ((type)dlsym(RTLD_NEXT, name))

static int ends_with(const char *text, const char *end) {
  size_t length = strlen(text), tail = strlen(end);
  return length >= tail && strcmp(text + length - tail, end) == 0;
}

static int past(int file) {
  if (file < 0 || file >= MOST_FILES) return -1;
  if (past_of[file] == 0) {
    char link[64], path[4000], kept[4016];
    snprintf(link, sizeof link, "/proc/self/fd/%d", file);
    ssize_t length = readlink(link, path, sizeof path - 1);
    path[length < 0 ? 0 : length] = 0;
    past_of[file] = -1;
    if (ends_with(path, ".sqlite") || ends_with(path, ".sqlite-wal")) {
      snprintf(kept, sizeof kept, "%s.past", path);
      int opened = open(kept, O_RDWR | O_CREAT | O_APPEND, 0600);
      if (opened >= 0) past_of[file] = opened + 1;
    }
  }
  return past_of[file] > 0 ? past_of[file] - 1 : -1;
}

/* Keeps `count` bytes from `at` on, as far as the file goes, and how long it is. */
static void keep(int file, int kept, off64_t at, size_t count) {
  struct stat64 about;
  if (fstat64(file, &about) != 0) return;
  int64_t head[3] = {at, 0, about.st_size};
  if (at < about.st_size) head[1] = at + (off64_t)count <= about.st_size ? (int64_t)count : about.st_size - at;
  char *bytes = malloc(sizeof head + (size_t)head[1]);
  ssize_t got = pread64(file, bytes + sizeof head, (size_t)head[1], at);
  head[1] = got > 0 ? got : 0;
  memcpy(bytes, head, sizeof head);
  ssize_t (*original)(int, const void *, size_t) = ORIGINAL(ssize_t (*)(int, const void *, size_t), "write");
  if (original(kept, bytes, sizeof head + (size_t)head[1]) < 0) abort();
  free(bytes);
}

ssize_t pwrite64(int file, const void *bytes, size_t count, off64_t at) {
  pthread_mutex_lock(&lock);
  int kept = past(file);
  if (kept >= 0) keep(file, kept, at, count);
  ssize_t done = ORIGINAL(ssize_t (*)(int, const void *, size_t, off64_t), "pwrite64")(file, bytes, count, at);
  pthread_mutex_unlock(&lock);
  return done;
}

int ftruncate64(int file, off64_t length) {
  pthread_mutex_lock(&lock);
  int kept = past(file);
  struct stat64 about;
  if (kept >= 0 && fstat64(file, &about) == 0 && about.st_size > length)
    keep(file, kept, length, (size_t)(about.st_size - length));
  int done = ORIGINAL(int (*)(int, off64_t), "ftruncate64")(file, length);
  pthread_mutex_unlock(&lock);
  return done;
}

static int synchronised(int file, const char *name) {
  pthread_mutex_lock(&lock);
  int kept = past(file);
  int done = ORIGINAL(int (*)(int), name)(file);
  if (kept >= 0 && done == 0) ORIGINAL(int (*)(int, off64_t), "ftruncate64")(kept, 0);
  pthread_mutex_unlock(&lock);
  return done;
}
int fsync(int file) { return synchronised(file, "fsync"); }
int fdatasync(int file) { return synchronised(file, "fdatasync"); }

int close(int file) {
  pthread_mutex_lock(&lock);
  if (file >= 0 && file < MOST_FILES) {
    if (past_of[file] > 0) ORIGINAL(int (*)(int), "close")(past_of[file] - 1);
    past_of[file] = 0;
  }
  int done = ORIGINAL(int (*)(int), "close")(file);
  pthread_mutex_unlock(&lock);
  return done;
}
