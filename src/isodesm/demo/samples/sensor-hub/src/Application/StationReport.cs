using System.Linq;
using Hollin.Hub.Domain;
using Hollin.Hub.Host;

namespace Hollin.Hub.Application
{
    /// <summary>The line a station gets in the morning's report.</summary>
    public class StationReport
    {
        private readonly Registry registry;

        public StationReport(Registry registry)
        {
            this.registry = registry;
        }

        public string LineFor(string name)
        {
            IStationBook book = registry.Get<IStationBook>();
            Station station = book.Find(name);
            if (station.Readings.Count == 0)
            {
                throw new HubException(name + " has sent nothing");
            }
            double highest = station.Readings.Max(each => each.Value);
            return name + ": " + highest + " of " + station.Readings.Count + " readings";
        }
    }
}
