/* SPDX-License-Identifier: MIT */
/* A file, standard input or a text in memory as bytes; what is gzipped in a file comes unpacked. */
#include "workshop/recordings/recording.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>
#include <zlib.h>

struct fg_stream {
    const char *path;
    gzFile file;   /* NULL: `text` */
    uint64_t size; /* 0: not known */
    fg_text text;  /* what is left of it */
};

fg_stream *fg_stream_of_text(fg_text text, const char *path, fg_mistake *mistake)
{
    fg_stream *stream = calloc(1, sizeof *stream);
    if (stream)
        *stream = (fg_stream){.path = path, .size = text.size, .text = text};
    else
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to read it");
    return stream;
}

fg_stream *fg_stream_open(const char *path, fg_mistake *mistake)
{
    struct stat about;
    const int handle = fg_input_open(path, mistake);
    if (handle < 0) return NULL;
    fg_stream *stream = calloc(1, sizeof *stream);
    gzFile file = stream ? gzdopen(handle, "rb") : NULL;
    if (!file) {
        (void)close(handle);
        free(stream);
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to read it");
        return NULL;
    }
    (void)gzbuffer(file, FG_BLOCK / 2);
    *stream = (fg_stream){.path = path, .file = file};
    if (fstat(handle, &about) == 0 && S_ISREG(about.st_mode)) stream->size = (uint64_t)about.st_size;
    return stream;
}

size_t fg_stream_read(fg_stream *stream, char *to, size_t size, fg_mistake *mistake)
{
    int error;
    if (!stream->file) {
        const size_t part = size < stream->text.size ? size : stream->text.size;
        memcpy(to, stream->text.at, part);
        stream->text = (fg_text){stream->text.at + part, stream->text.size - part};
        return part;
    }
    errno = 0;
    const int got = gzread(stream->file, to, (unsigned)size);
    const char *text = gzerror(stream->file, &error);
    if (got > 0) return (size_t)got;
    if (error == Z_BUF_ERROR)
        text = "the packed file ends too early; it was cut short, pack it again";
    else if (error == Z_DATA_ERROR)
        text = "the packed file is damaged; pack it again";
    else if (error == Z_ERRNO || (got < 0 && error == Z_OK))
        text = errno ? strerror(errno) : "it cannot be read";
    if (error == Z_MEM_ERROR)
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, stream->path, 0, "there is not enough memory to read it");
    else if (got < 0 || error == Z_BUF_ERROR)
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, stream->path, 0, "cannot be read: %s", text);
    return 0;
}

void fg_stream_progress(const fg_stream *stream, uint64_t *done, uint64_t *all)
{
    const z_off_t at = stream->file ? gzoffset(stream->file) : (z_off_t)(stream->size - stream->text.size);
    *all = stream->size;
    *done = *all && at > 0 ? (uint64_t)at : 0;
}

void fg_stream_close(fg_stream *stream)
{
    if (!stream) return;
    if (stream->file) (void)gzclose_r(stream->file);
    free(stream);
}
