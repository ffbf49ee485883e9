using System;

namespace Hollin.Hub.Domain
{
    public class HubException : Exception
    {
        public HubException(string message) : base(message)
        {
        }
    }
}
