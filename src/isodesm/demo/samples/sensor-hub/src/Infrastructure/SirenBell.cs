using System.Net.Sockets;
using System.Text;

namespace Hollin.Hub.Infrastructure
{
    public class SirenBell
    {
        private readonly string host;

        public SirenBell(string host)
        {
            this.host = host;
        }

        public void Ring(string station)
        {
            byte[] message = Encoding.ASCII.GetBytes("DRIFT " + station);
            using (var client = new UdpClient())
            {
                client.Send(message, message.Length, host, 7071);
            }
        }
    }
}
