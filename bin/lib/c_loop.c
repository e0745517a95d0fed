/* The events of one burst on one slot, in plain C: what the sweeps of bin/bench are held against.

   As engine/burst/event_loop.py shoots it: frames are taken while memory has room, encoded one after
   the other, written one after the other, their sizes varying from frame to frame. */
#include <stdint.h>

#define MASK 4095
#define BITS 10

typedef struct { int64_t interval, encode, memory, held, bytes, overhead, transfer; } plan;

static int64_t encoded[MASK + 1], done[MASK + 1], kept[MASK + 1];

int64_t shoot(const plan *p, int64_t finger_up, int64_t burst_size, const int32_t *sizes, int64_t size_mask,
              int64_t *depth, int64_t *last)
{
    int64_t now = 0, used = 0, frames = 0, shrunk = 0, freed = 0, encoder = 0, writer = 0;
    *depth = -1;
    while (now < finger_up) {
        while (freed < frames && done[freed & MASK] <= now) used -= kept[freed++ & MASK];
        while (shrunk < frames && encoded[shrunk & MASK] <= now) {
            int64_t less = p->held - kept[shrunk++ & MASK];
            used -= less > 0 ? less : 0;
        }
        int64_t size = burst_size * sizes[frames & size_mask] >> BITS;
        int64_t bytes = p->bytes * size >> BITS;
        int64_t needs = p->held > bytes ? p->held : bytes;
        if (used + needs > p->memory) {
            if (*depth < 0) *depth = frames;
            while (used + needs > p->memory && used > 0) {
                int64_t next_encoded = shrunk < frames ? encoded[shrunk & MASK] : INT64_MAX;
                int64_t next_done = done[freed & MASK];
                now = next_encoded < next_done ? next_encoded : next_done;
                if (now >= finger_up) break;
                if (next_encoded < next_done) {
                    int64_t less = p->held - kept[shrunk++ & MASK];
                    used -= less > 0 ? less : 0;
                } else used -= kept[freed++ & MASK];
            }
            if (now >= finger_up || used + needs > p->memory) break;
        }
        encoder = (encoder > now ? encoder : now) + p->encode;
        writer = (writer > encoder ? writer : encoder) + p->overhead + (p->transfer * size >> BITS);
        encoded[frames & MASK] = encoder;
        done[frames & MASK] = writer;
        kept[frames & MASK] = bytes;
        used += needs;
        frames++;
        now += p->interval;
    }
    *last = writer;
    return frames;
}

/* Shoots `count` plans, with the sizes of the draw that each is of, and answers with all frames. */
int64_t shoot_all(const plan *plans, int64_t count, int64_t finger_up, const int64_t *burst_sizes, int64_t draws,
                  const int32_t *sizes, int64_t frames_in_series, int64_t *outcomes)
{
    int64_t frames = 0;
    for (int64_t one = 0; one < count; one++) {
        int64_t depth, last;
        frames += shoot(plans + one, finger_up, burst_sizes[one], sizes + one % draws * frames_in_series,
                        frames_in_series - 1, &depth, &last);
        outcomes[one] = depth + last;
    }
    return frames;
}
