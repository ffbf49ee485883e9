import { Bell } from './bell';

class Base { }
interface Port { send(text: string): void; }

class Relay extends Base implements Port {
  private bell: Bell;
  static count = 0;

  constructor(bell: Bell) {
    super();
    this.bell = bell;
  }

  send(text: string): void {
    const other = new Bell();
    for (let i = 0; i < 3; i++) {
      if (Relay.count > 2) { this.bell.ring(new Note(text)); }
    }
    other.ring(null);
    Clock.now();
  }
}
