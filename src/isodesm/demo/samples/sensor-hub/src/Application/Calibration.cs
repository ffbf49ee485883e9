using Hollin.Hub.Domain;
using Hollin.Hub.Host;

namespace Hollin.Hub.Application
{
    /// <summary>Sets the offset of a station from a measurement made by hand.</summary>
    public class Calibration
    {
        public double Apply(string name, double measured, double shown)
        {
            Station station = Registry.Current.Get<IStationBook>().Find(name);
            station.Offset = shown - measured;
            Registry.Current.Get<IReadingStore>().Keep(new Reading(name, "offset", station.Offset, System.DateTime.UtcNow));
            return station.Offset;
        }
    }
}
