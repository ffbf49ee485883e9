using System;
using Hollin.Hub.Domain;
using Hollin.Hub.Host;
using Hollin.Hub.Infrastructure;

namespace Hollin.Hub.Application
{
    /// <summary>Sounds the bell when wind and new snow together mean drift.</summary>
    public class DriftAlarm
    {
        private readonly SirenBell bell = new SirenBell("bell.hollin.example");
        private DateTime lastRung = DateTime.MinValue;

        public bool Check(Reading wind, Reading depth)
        {
            if (wind.Value < HubSettings.DriftWind || depth.Value < 30)
            {
                return false;
            }
            if (DateTime.Now - lastRung < TimeSpan.FromHours(1))
            {
                return false;
            }
            lastRung = DateTime.Now;
            bell.Ring(wind.Station);
            return true;
        }
    }
}
