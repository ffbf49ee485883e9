using System;

namespace Hollin.Hub.Domain
{
    /// <summary>Judges a reading by itself; needs nothing else.</summary>
    public class DepthRule
    {
        private readonly double most;

        public DepthRule(double most)
        {
            this.most = most;
        }

        public bool IsPlausible(Reading reading)
        {
            if (reading.Quantity != "depth")
            {
                return true;
            }
            return !double.IsNaN(reading.Value) && reading.Value >= 0 && reading.Value <= most;
        }
    }
}
