using System;

namespace Hollin.Hub.Domain
{
    /// <summary>One value that a station has sent: depth in centimetres or wind in metres a second.</summary>
    public struct Reading
    {
        public Reading(string station, string quantity, double value, DateTime at)
        {
            Station = station;
            Quantity = quantity;
            Value = value;
            At = at;
        }

        public string Station { get; }
        public string Quantity { get; }
        public double Value { get; }
        public DateTime At { get; }
    }
}
