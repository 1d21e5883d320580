/** Lets a worker's messages in between two pieces of its work. */
export function breathe(): Promise<void> {
  return new Promise((done) => {
    const channel = new MessageChannel();
    channel.port1.onmessage = () => {
      channel.port1.close();
      done();
    };

    channel.port2.postMessage(0);
  });
}
