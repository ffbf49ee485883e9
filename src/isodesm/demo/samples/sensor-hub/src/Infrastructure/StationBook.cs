using System.Collections.Generic;
using Hollin.Hub.Application;
using Hollin.Hub.Domain;

namespace Hollin.Hub.Infrastructure
{
    public class StationBook : IStationBook
    {
        private readonly Dictionary<string, Station> stations = new Dictionary<string, Station>();

        public IEnumerable<string> Names => stations.Keys;

        public Station Find(string name)
        {
            if (!stations.TryGetValue(name, out Station found))
            {
                throw new HubException("no station " + name);
            }
            return found;
        }

        public void Add(Station station)
        {
            stations[station.Name] = station;
        }
    }
}
