using System;
using System.Collections.Generic;
using System.Globalization;
using System.IO;
using System.Net.Sockets;
using Hollin.Hub.Application;
using Hollin.Hub.Domain;

namespace Hollin.Hub.Infrastructure
{
    public class RadioLink : IRadioLink
    {
        private readonly string host;
        private readonly int port;

        public RadioLink(string host, int port)
        {
            this.host = host;
            this.port = port;
        }

        public IEnumerable<Reading> Poll(string station)
        {
            var found = new List<Reading>();
            using (var client = new TcpClient(host, port))
            using (var lines = new StreamReader(client.GetStream()))
            {
                string line;
                while ((line = lines.ReadLine()) != null)
                {
                    string[] parts = line.Split(' ');
                    if (parts.Length == 2)
                    {
                        double value = double.Parse(parts[1], CultureInfo.InvariantCulture);
                        found.Add(new Reading(station, parts[0], value, DateTime.UtcNow));
                    }
                }
            }
            return found;
        }
    }
}
