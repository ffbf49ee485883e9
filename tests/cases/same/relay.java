package desk;

import desk.Bell;

class Base { }
interface Port { void send(String text); }

class Relay extends Base implements Port {
    private Bell bell;
    static int count = 0;

    Relay(Bell bell) {
        this.bell = bell;
    }

    public void send(String text) {
        Bell other = new Bell();
        for (int i = 0; i < 3; i++) {
            if (Relay.count > 2) { bell.ring(new Note(text)); }
        }
        other.ring(null);
        Clock.now();
    }
}
