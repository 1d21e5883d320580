// Rooms of memory in which workers keep what they need for the while of a kernel: a word each says whether it
// is taken; there are as many as workers, so that one is always free. Which one it is changes no result.

export function takeRoom(rooms: usize): i32 {
  let n = 0;
  while (atomic.cmpxchg<i32>(rooms + ((<usize>n) << 2), 0, 1) != 0) n = (n + 1) & 63;
  return n;
}
