using Desk.Bells;

namespace Desk
{
    class Base { }
    interface IPort { void Send(string text); }

    class Relay : Base, IPort
    {
        private Bell bell;
        static int Count = 0;

        Relay(Bell bell)
        {
            this.bell = bell;
        }

        public void Send(string text)
        {
            Bell other = new Bell();
            for (int i = 0; i < 3; i++)
            {
                if (Relay.Count > 2) { bell.Ring(new Note(text)); }
            }
            other.Ring(null);
            Clock.Now();
        }
    }
}
