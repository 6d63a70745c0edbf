import { connect, createServer, type AddressInfo, type Server, type Socket } from 'node:net';

/** Stands between the service and a server, as a firewall does, and can lose what goes through it. */
export class LossyProxy {
  /** Whether nothing goes through at all, as over a network that is down. */
  isFrozen = false;
  /** The port on loopback that new connections lead to. */
  target: number;
  private readonly server: Server;
  private readonly sockets = new Set<Socket>();
  private lost: ReadonlySet<Socket> = new Set();

  constructor(target: number) {
    this.target = target;
    this.server = createServer((near) => {
      const far = connect(this.target, '127.0.0.1');
      for (const [from, to] of [
        [near, far],
        [far, near],
      ] as const) {
        this.sockets.add(from);
        from.on('error', () => undefined);
        from.on('close', () => {
          this.sockets.delete(from);
          to.destroy();
        });
        from.on('data', (data) => {
          if (!this.isFrozen && !this.lost.has(from)) to.write(data);
        });
      }
    });
  }

  /** Loses the connections that there are, without a word to either side. New ones are made. */
  loseAll(): void {
    this.lost = new Set(this.sockets);
  }

  /** Ends the connections that there are. */
  endAll(): void {
    for (const socket of this.sockets) socket.destroy();
  }

  /** Listens on a port of loopback, any free one by default; gives the port. */
  async listen(port = 0): Promise<number> {
    await new Promise<void>((resolve) => this.server.listen(port, '127.0.0.1', resolve));
    return (this.server.address() as AddressInfo).port;
  }

  close(): void {
    this.endAll();
    this.server.close();
  }
}
