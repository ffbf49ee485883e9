using System;
using System.Collections.Generic;
using Hollin.Hub.Application;
using Hollin.Hub.Domain;

namespace Hollin.Hub.Infrastructure
{
    /// <summary>In the place of the radio net where there is none: every station sends the same.</summary>
    public class DryRadioLink : IRadioLink
    {
        public IEnumerable<Reading> Poll(string station)
        {
            yield return new Reading(station, "depth", 80, new DateTime(2031, 1, 2));
        }
    }
}
